<script lang="ts">
  import { onMount, untrack } from "svelte";
  import { problemOf, type Problem } from "../lib/api/client";
  import { Form } from "../lib/form.svelte";
  import DateField from "../ui/DateField.svelte";
  import { notes, type Note } from "./notes.svelte";

  /** Writes a note on a date, or changes one. */
  let { date, note = null, close }: { date: string; note?: Note | null; close: () => void } = $props();

  const form = untrack(
    () =>
      new Form(`note-${note?.id ?? date}`, {
        on: note?.date ?? date,
        text: note?.text ?? "",
        hidden: note?.private ?? false,
      }),
  );
  let refused = $state<Problem | null>(null);
  let busy = $state(false);
  let field = $state<HTMLInputElement>();

  onMount(() => field?.focus());

  function leave() {
    form.end();
    close();
  }

  async function attempt(work: () => Promise<void>) {
    if (busy) return;
    busy = true;
    refused = null;
    try {
      await work();
      leave();
    } catch (error) {
      refused = problemOf(error);
    }
    busy = false;
  }

  function keep(event: SubmitEvent) {
    event.preventDefault();
    const { on, text, hidden } = form.fields;
    const written = { date: on, text: text.trim(), private: hidden };
    void attempt(() => (note ? notes.change(note.id, written) : notes.add(written)));
  }
</script>

<form
  class="small my-1 flex flex-wrap items-center gap-3"
  aria-label={note ? "Edit note" : "New note"}
  onsubmit={keep}
>
  <DateField label="Date of the note" value={form.fields.on} change={(iso) => (form.fields.on = iso)} />
  <input
    class="w-72"
    aria-label="Note text"
    placeholder="A release, a new price, an outage …"
    maxlength="200"
    bind:this={field}
    bind:value={form.fields.text}
    onkeydown={(event) => event.key === "Escape" && leave()}
  />
  <label class="flex items-center gap-1"
    ><input type="checkbox" bind:checked={form.fields.hidden} /> Private</label
  >
  <button class="act" disabled={busy || !form.fields.text.trim()}>Save</button>
  {#if note}<button
      type="button"
      class="cursor-pointer underline"
      onclick={() => attempt(() => notes.remove(note))}>Remove</button
    >{/if}
  <button type="button" class="cursor-pointer underline" onclick={leave}>Cancel</button>
  {#if refused}<span role="alert" class="text-(--alarm)">{refused.detail}</span>{/if}
</form>
