<script lang="ts">
  import { Dialog } from "@skeletonlabs/skeleton-svelte";
  import { address } from "../lib/address.svelte";
  import { shortcuts } from "./shortcuts.svelte";

  /** The keyboard shortcuts there are. */
  const KEYS = [
    ["?", "show this list"],
    ["g l", "go to Lifecycle"],
    ["g p", "go to People"],
    ["g a", "go to Audiences"],
    ["g s", "go to Analyses"],
    ["g e", "go to Exports"],
    ["g d", "go to Data"],
    ["n", "write a new audience"],
    ["/", "search people"],
    ["q", "go to the sentence of this page"],
    ["← → ↑ ↓", "in a sentence: another phrase"],
    ["A to Z", "in a sentence: the next phrase that begins so"],
    ["Home, End", "in a sentence: the first or last phrase"],
    ["Ctrl S", "save the audience"],
    ["Ctrl Z, Ctrl ⇧ Z", "undo and redo a change of it"],
    ["Space", "on a condition's number: select it, for “either of these”"],
    ["Alt ↑ ↓", "on a condition's number: move it"],
    ["Alt → ←", "nest it, take it out"],
    ["Delete", "remove it"],
    ["Ctrl C", "copy it"],
    ["← →", "in a picture: another day"],
    ["Alt T", "go to the messages, to undo a deletion"],
    ["Esc", "close what is open"],
  ] as const;
</script>

<Dialog open={shortcuts.open} onOpenChange={(details) => (shortcuts.open = details.open)}>
  <Dialog.Backdrop class="fixed inset-0 z-40 bg-black/40" />
  <Dialog.Positioner class="fixed inset-0 z-50 flex items-center justify-center">
    <Dialog.Content class="panel w-[28rem]">
      <Dialog.Title class="mb-3 font-semibold">Keyboard shortcuts</Dialog.Title>
      <dl class="grid grid-cols-[8.5rem_1fr] gap-y-1">
        {#each KEYS as [key, does] (key)}
          <dt><kbd class="rounded-sm border border-(--rule-strong) px-1.5">{key}</kbd></dt>
          <dd>{does}</dd>
        {/each}
      </dl>
      <label class="mt-3 flex items-center gap-2">
        <input type="checkbox" bind:checked={shortcuts.on} /> Use shortcuts of a single key
      </label>
      <p class="mt-3">
        <a href={address.to("/help")} onclick={() => (shortcuts.open = false)}>Glossary and guides</a>
      </p>
      <Dialog.CloseTrigger class="quiet mt-4">Close</Dialog.CloseTrigger>
    </Dialog.Content>
  </Dialog.Positioner>
</Dialog>
