<script lang="ts">
  import { answer, api } from "../../lib/api/client";
  import { number } from "../../lib/format";
  import { Resource } from "../../lib/resource.svelte";
  import { workspace } from "../../lib/workspace.svelte";
  import Choice from "./Choice.svelte";

  /** Which other audience, as of the same date or of an earlier one. */
  let {
    audience,
    change,
    close,
  }: {
    audience: { id: number; on?: string };
    change: (audience: { id: number; on?: string }) => void;
    close: () => void;
  } = $props();

  const list = new Resource((signal) =>
    answer(api.GET("/audiences", { params: { query: { as_of: workspace.asOf } }, signal })),
  );
  const options = $derived(
    (list.data?.audiences ?? []).map((row) => ({
      value: String(row.id),
      text: row.name,
      note: row.size === null ? "–" : number(row.size),
    })),
  );

  function on(date: string) {
    change(date ? { id: audience.id, on: date } : { id: audience.id });
  }
</script>

{#if list.data}
  <Choice
    label="Audience"
    value={String(audience.id)}
    {options}
    choose={(id) => change({ ...audience, id: Number(id) })}
    {close}
  />
{/if}
<label class="small mt-2 flex items-center gap-2">
  as of another date <input
    type="date"
    aria-label="As of another date"
    value={audience.on ?? ""}
    onchange={(event) => on(event.currentTarget.value)}
  />
</label>
