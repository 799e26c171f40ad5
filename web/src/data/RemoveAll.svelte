<script lang="ts">
  import { Dialog } from "@skeletonlabs/skeleton-svelte";
  import { answer, api, problemOf, type Problem } from "../lib/api/client";
  import { number } from "../lib/format";
  import { workspace } from "../lib/workspace.svelte";
  import Waiting from "../ui/Waiting.svelte";

  /** Removes everything, after having said what that is; it cannot be undone. */
  let { open = $bindable(), done }: { open: boolean; done: () => void } = $props();

  const WORDS = "remove all data";

  let typed = $state("");
  let working = $state(false);
  let problem = $state<Problem | null>(null);

  async function remove() {
    working = true;
    try {
      await answer(api.POST("/workspace/clear", { body: { confirm: WORDS } }));
      open = false;
      typed = "";
      done();
    } catch (error) {
      problem = problemOf(error);
    } finally {
      working = false;
    }
  }
</script>

<Dialog {open} onOpenChange={(details) => (open = details.open)}>
  <Dialog.Backdrop class="fixed inset-0 z-40 bg-black/40" />
  <Dialog.Positioner class="fixed inset-0 z-50 flex items-center justify-center">
    <Dialog.Content class="panel w-[30rem]">
      <Dialog.Title class="mb-2 font-semibold">Remove all data?</Dialog.Title>
      <Dialog.Description>
        This permanently deletes {number(workspace.info?.data?.profiles ?? 0)} people, {number(
          workspace.info?.data?.events ?? 0,
        )} events and all audiences, imports and exports.
      </Dialog.Description>
      <label class="field mt-3">
        Type “{WORDS}” to confirm
        <input bind:value={typed} autocomplete="off" />
      </label>
      {#if problem}<Waiting {problem} />{/if}
      <div class="mt-4 flex gap-2">
        <button class="act" disabled={typed !== WORDS || working} onclick={remove}>Remove everything</button>
        <Dialog.CloseTrigger class="quiet">Cancel</Dialog.CloseTrigger>
      </div>
    </Dialog.Content>
  </Dialog.Positioner>
</Dialog>
