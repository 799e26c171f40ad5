import { problemOf, type Problem } from "./api/client";
import { said } from "./toasts.svelte";

/** Removes something and offers to bring it back; the refusal, where there is one. */
export async function removed(
  name: string,
  remove: () => Promise<unknown>,
  restore: () => Promise<unknown>,
  reload: () => Promise<void>,
): Promise<Problem | null> {
  try {
    await remove();
  } catch (error) {
    return problemOf(error);
  }
  await reload();
  said(`“${name}” has been deleted`, async () => {
    await restore();
    await reload();
  });
  return null;
}
