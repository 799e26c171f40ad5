<script lang="ts">
  import { day } from "../lib/format";
  import { session } from "../lib/session.svelte";
  import NoteForm from "./NoteForm.svelte";
  import type { Mark, Note } from "./notes.svelte";

  /** What is noted on the days of a picture, below it; notes are written and changed here. */
  let {
    marks,
    date = $bindable(null),
    fallback,
  }: {
    marks: Mark[];
    /** The day on which a note is being written. */
    date?: string | null;
    /** The day that is offered where none was clicked. */
    fallback: string;
  } = $props();

  const MOST = 6;
  let changed = $state<Note | null>(null);
  const shown = $derived(marks.slice(-MOST));
</script>

{#if date !== null || changed}
  {#key changed?.id ?? date}
    <NoteForm
      date={date ?? fallback}
      note={changed}
      close={() => {
        date = null;
        changed = null;
      }}
    />
  {/key}
{:else if shown.length || session.may("analyst")}
  <p class="soft small flex flex-wrap gap-x-4 gap-y-1.5" data-testid="notes">
    {#if marks.length > MOST}<span>{marks.length - MOST} earlier notes</span>{/if}
    {#each shown as { date: on, text, note, kind }, index (index)}
      <span class={kind === "note" ? "text-(--ink)" : ""}
        >{day(on)}:
        {#if note && session.may("analyst")}<button
            class="cursor-pointer text-left underline"
            title="Edit note"
            onclick={() => (changed = note)}>{text}</button
          >{:else}{text}{/if}</span
      >
    {/each}
    {#if session.may("analyst")}<button
        class="paperless cursor-pointer underline"
        onclick={() => (date = fallback)}>Add note</button
      >{/if}
  </p>
{/if}
