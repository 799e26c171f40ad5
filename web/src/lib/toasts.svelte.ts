import { createToaster } from "@skeletonlabs/skeleton-svelte";
import { problemOf } from "./api/client";

/** For how long something can be undone. */
export const UNDO_SECONDS = 12;

export const toaster = createToaster({ placement: "bottom-end" });

/** Undoes something; where that fails it says so, and offers it again. */
async function attempt(undo: () => unknown): Promise<void> {
  try {
    await undo();
  } catch (error) {
    said(`This could not be undone. ${problemOf(error).detail}`, undo);
  }
}

/** Says that something is done, with a way to undo it; for longer where it has to be acted on. */
export function said(title: string, undo?: () => unknown, seconds = undo ? UNDO_SECONDS : 5): void {
  toaster.create({
    title,
    type: "info",
    duration: seconds * 1000,
    action: undo ? { label: "Undo", onClick: () => void attempt(undo) } : undefined,
  });
}
