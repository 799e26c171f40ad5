<script lang="ts" module>
  import { audienceOptions } from "../editor/choices";
  import type { Condition, PhraseProps } from "./condition";

  export const condition: Condition = {
    keys: ["audience"],
    phrases: { audience: "Audience" },
    offers: [
      {
        about: "who",
        text: "who are in another audience …",
        ask: "Audience",
        options: audienceOptions,
        begin: (id) => ({ audience: { id: Number(id) } }),
      },
    ],
  };
</script>

<script lang="ts">
  import DateField from "../../ui/DateField.svelte";
  import Choice from "../editor/Choice.svelte";

  /** Which other audience, as of the same date or of an earlier one. */
  let { piece: audience, put: change, close }: PhraseProps<{ id: number; on?: string }> = $props();

  function on(date: string) {
    change(date ? { id: audience.id, on: date } : { id: audience.id });
  }
</script>

{#await audienceOptions() then options}
  <Choice
    label="Audience"
    value={String(audience.id)}
    {options}
    choose={(id) => change({ ...audience, id: Number(id) })}
    {close}
  />
{/await}
<label class="small mt-2 flex items-center gap-2">
  on another date <DateField label="As of another date" optional value={audience.on} change={on} />
</label>
