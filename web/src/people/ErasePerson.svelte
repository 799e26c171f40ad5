<script lang="ts">
  import { Dialog } from "@skeletonlabs/skeleton-svelte";
  import { tick } from "svelte";
  import { address } from "../lib/address.svelte";
  import { answer, api, problemOf, type Problem } from "../lib/api/client";
  import { said } from "../lib/toasts.svelte";
  import { workspace } from "../lib/workspace.svelte";
  import Waiting from "../ui/Waiting.svelte";

  /** Erases one person on request; it is recorded and cannot be undone. */
  let { id, name }: { id: number; name: string } = $props();

  const WORDS = "erase this person";

  let open = $state(false);
  let typed = $state("");
  let reason = $state("");
  let working = $state(false);
  let problem = $state<Problem | null>(null);

  async function erase() {
    working = true;
    problem = null;
    try {
      const params = { path: { id } };
      const { removed, remarks } = await answer(
        api.POST("/people/{id}/erase", { params, body: { confirm: typed, reason } }),
      );
      open = false;
      await tick(); // the dialog closes before the page it is on goes
      said(`${name} and ${removed.events} events erased`);
      const named = remarks.map(({ kind, title }) => `${kind} “${title}”`).join(", ");
      if (named) said(`Still naming this person, to be edited by hand: ${named}`, undefined, 60);
      address.go(address.to("/people"));
      await workspace.refresh();
    } catch (error) {
      problem = problemOf(error);
    } finally {
      working = false;
    }
  }
</script>

<Dialog {open} onOpenChange={(details) => (open = details.open)}>
  <Dialog.Trigger class="quiet">Erase…</Dialog.Trigger>
  <Dialog.Backdrop class="fixed inset-0 z-40 bg-black/40" />
  <Dialog.Positioner class="fixed inset-0 z-50 flex items-center justify-center">
    <Dialog.Content class="panel w-[30rem]">
      <Dialog.Title class="mb-2 font-semibold">Erase {name}?</Dialog.Title>
      <Dialog.Description>
        This permanently deletes identifiers, attributes, consent and all events. Later events with these
        identifiers are rejected. The audit log records when and why, but not who the person was.
      </Dialog.Description>
      <label class="field mt-3"
        >Reason <input bind:value={reason} maxlength="1000" autocomplete="off" /></label
      >
      <label class="field mt-3">
        Type “{WORDS}” to confirm
        <input bind:value={typed} autocomplete="off" />
      </label>
      {#if problem}<Waiting {problem} />{/if}
      <div class="mt-4 flex gap-2">
        <button class="act" disabled={typed !== WORDS || !reason.trim() || working} onclick={erase}
          >Erase person</button
        >
        <Dialog.CloseTrigger class="quiet">Cancel</Dialog.CloseTrigger>
      </div>
    </Dialog.Content>
  </Dialog.Positioner>
</Dialog>
