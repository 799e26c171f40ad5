import { createToaster } from "@skeletonlabs/skeleton-svelte";

export const toaster = createToaster({ placement: "bottom-end" });

/** Says that something is done, with a way to undo it; for longer where it has to be acted on. */
export function said(title: string, undo?: () => void, seconds = undo ? 12 : 5): void {
  toaster.create({
    title,
    type: "info",
    duration: seconds * 1000,
    action: undo ? { label: "Undo", onClick: undo } : undefined,
  });
}
