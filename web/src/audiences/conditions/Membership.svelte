<script lang="ts" module>
  import { answer, api } from "../../lib/api/client";
  import type { Condition, PhraseProps } from "./condition";

  export const condition: Condition = {
    keys: ["audience"],
    phrases: { audience: "Audience" },
    offers: [
      {
        about: "who",
        text: "who are in another audience …",
        begin: async () => {
          const first = (await answer(api.GET("/audiences"))).audiences[0];
          return first ? { audience: { id: first.id } } : null;
        },
      },
    ],
  };
</script>

<script lang="ts">
  import DateField from "../../ui/DateField.svelte";
  import { number } from "../../lib/format";
  import { Resource } from "../../lib/resource.svelte";
  import { workspace } from "../../lib/workspace.svelte";
  import Choice from "../editor/Choice.svelte";

  /** Which other audience, as of the same date or of an earlier one. */
  let { piece: audience, put: change, close }: PhraseProps<{ id: number; on?: string }> = $props();

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
  as of another date <DateField label="As of another date" optional value={audience.on} change={on} />
</label>
