/** What has changes that no draft keeps, such as a file that was chosen. */
const unsaved = new Set<() => boolean>();

addEventListener("beforeunload", (event) => {
  if (anyUnsaved()) event.preventDefault();
});

function anyUnsaved(): boolean {
  return [...unsaved].some((changed) => changed());
}

/** Whether the page may be left: nothing is lost by it, or the user says so. */
export function mayLeave(): boolean {
  return !anyUnsaved() || confirm("Leave this page? What you have entered is not saved.");
}

/**
 * Has the user asked before the page is left while something is not saved. For an effect.
 *
 * @param changed whether it is so now
 * @returns ends it
 */
export function asksBeforeLeaving(changed: () => boolean): () => void {
  unsaved.add(changed);
  return () => unsaved.delete(changed);
}
