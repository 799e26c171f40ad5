<script lang="ts">
  import { Dialog } from "@skeletonlabs/skeleton-svelte";
  import { address } from "../lib/address.svelte";
  import { shortcuts } from "./shortcuts.svelte";

  /** The keyboard shortcuts there are, by where they work. */
  const KEYS = {
    Anywhere: [
      ["?", "show this list"],
      ["g l", "go to Lifecycle"],
      ["g p", "go to People"],
      ["g a", "go to Audiences"],
      ["g s", "go to Analyses"],
      ["g e", "go to Exports"],
      ["g d", "go to Data"],
      ["n", "new audience"],
      ["/", "search people"],
      ["q", "go to the sentence of this page"],
      ["Alt T", "go to the messages, to undo a deletion"],
      ["Esc", "close"],
    ],
    "In a sentence": [
      ["← → ↑ ↓", "another phrase"],
      ["A to Z", "the next phrase that begins so"],
      ["Home", "the first phrase"],
      ["End", "the last phrase"],
    ],
    "In an audience": [
      ["Ctrl S", "save it"],
      ["Ctrl Z", "undo a change"],
      ["Ctrl ⇧ Z", "redo it"],
    ],
    "On the number of a condition": [
      ["Space", "select it, to combine with OR"],
      ["Alt ↑ ↓", "move it"],
      ["Alt → ←", "group it, ungroup it"],
      ["Delete", "remove it"],
      ["Ctrl C", "copy it"],
    ],
    "In a chart": [["← →", "previous or next point"]],
  } as const;
</script>

<Dialog open={shortcuts.open} onOpenChange={(details) => (shortcuts.open = details.open)}>
  <Dialog.Backdrop class="fixed inset-0 z-40 bg-black/40" />
  <Dialog.Positioner class="fixed inset-0 z-50 flex items-center justify-center">
    <Dialog.Content class="panel max-h-dvh w-[46rem] max-w-full overflow-y-auto">
      <Dialog.Title class="mb-3 font-semibold">Keyboard shortcuts</Dialog.Title>
      <div class="gap-x-8 sm:columns-2">
        {#each Object.entries(KEYS) as [where, keys] (where)}
          <section class="mb-3 break-inside-avoid">
            <h2>{where}</h2>
            <dl class="grid grid-cols-[6.5rem_1fr] gap-y-1">
              {#each keys as [key, does] (key)}
                <dt><kbd class="rounded-sm border border-(--rule-strong) px-1.5">{key}</kbd></dt>
                <dd>{does}</dd>
              {/each}
            </dl>
          </section>
        {/each}
      </div>
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
