<script lang="ts" module>
  export type SavedFields = { name: string; folder: string; note: string; private: boolean; moving: boolean };
</script>

<script lang="ts">
  import { onMount, untrack } from "svelte";
  import type { Problem, Schemas } from "../lib/api/client";
  import { Form } from "../lib/form.svelte";
  import { moves } from "./saved";

  /** The name, folder and dates under which an analysis is kept. */
  let {
    analysis,
    saved,
    busy,
    refused,
    keep,
    remove,
    close,
  }: {
    analysis: string;
    /** Null for one that is not kept yet. */
    saved: Schemas["SavedAnalysisDetail"] | null;
    busy: boolean;
    refused: Problem | null;
    /** Resolves to whether it was kept. */
    keep: (fields: SavedFields) => Promise<boolean>;
    remove: () => void;
    close: () => void;
  } = $props();

  const form = untrack(
    () =>
      new Form<SavedFields>(`saved-${saved?.id ?? analysis}`, {
        name: saved?.name ?? "",
        folder: saved?.folder ?? "",
        note: saved?.note ?? "",
        private: saved?.private ?? false,
        moving: saved ? moves(saved.question) : true,
      }),
  );
  let field = $state<HTMLInputElement>();
  onMount(() => field?.focus());

  function leave() {
    form.end();
    close();
  }
</script>

<form
  class="flex flex-wrap items-end gap-3"
  aria-label={saved ? "Edit saved analysis" : "Save analysis"}
  onsubmit={async (event) => {
    event.preventDefault();
    if (await keep($state.snapshot(form.fields))) form.end();
  }}
>
  <label class="field"
    >Name <input
      maxlength="255"
      required
      bind:this={field}
      bind:value={form.fields.name}
      onkeydown={(event) => event.key === "Escape" && leave()}
    /></label
  >
  <label class="field">Folder <input maxlength="100" bind:value={form.fields.folder} /></label>
  <label class="field">Note <input maxlength="2000" bind:value={form.fields.note} /></label>
  <label class="field"
    >Dates
    <select bind:value={form.fields.moving}>
      <option value={true}>rolling</option>
      <option value={false}>fixed</option>
    </select></label
  >
  <label class="flex items-center gap-1"
    ><input type="checkbox" bind:checked={form.fields.private} /> Private</label
  >
  <button class="act" disabled={busy || !form.fields.name.trim()}>Save</button>
  {#if saved}<button type="button" class="cursor-pointer underline" onclick={remove}>Delete</button>{/if}
  <button type="button" class="cursor-pointer underline" onclick={leave}>Cancel</button>
  {#if refused}<span role="alert" class="text-(--alarm)">{refused.detail}</span>{/if}
</form>
