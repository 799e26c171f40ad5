import { createToaster } from "@skeletonlabs/skeleton-svelte";

export const toaster = createToaster({ placement: "bottom-end" });

/** Says that something is done, with a way to undo it. */
export function said(title: string, undo?: () => void): void {
  toaster.create({
    title,
    type: "info",
    duration: undo ? 12_000 : 5_000,
    action: undo ? { label: "Undo", onClick: undo } : undefined,
  });
}
