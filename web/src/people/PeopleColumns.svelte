<script lang="ts">
  import { chance, CHANCES, FIGURES, taken, type Column } from "../exports/exports";
  import AddChoice from "../ui/AddChoice.svelte";
  import { workspace } from "../lib/workspace.svelte";

  /** Which further columns a list of people has: attributes, chances, and figures of events. */
  let { columns, change }: { columns: Column[]; change: (columns: Column[]) => void } = $props();

  const MOST = 8;

  function add(value: string) {
    const [take, ...event] = value.split("/");
    if (take === "chance") change([...columns, chance(event[0] as keyof typeof CHANCES)]);
    else change([...columns, event.length ? { take: take!, event: event.join("/") } : { take: take! }]);
  }
</script>

{#each columns as column, index (index)}
  <span
    >{taken(column)}
    <button
      class="cursor-pointer"
      aria-label="Remove column {taken(column)}"
      onclick={() => change(columns.filter((_, position) => position !== index))}>×</button
    ></span
  >
{/each}
{#if columns.length < MOST}
  <AddChoice what="a column" {add}>
    <optgroup label="Attributes">
      {#each workspace.catalogue?.attributes ?? [] as field (field.name)}
        <option value="attribute:{field.name}">{field.display}</option>
      {/each}
    </optgroup>
    {#if workspace.ruleSet}
      <optgroup label="Propensity">
        {#each Object.entries(CHANCES) as [of, words] (of)}<option value="chance/{of}">{words}</option>{/each}
      </optgroup>
    {/if}
    {#each FIGURES.filter(([take]) => take !== "sum") as [take, text] (take)}
      <optgroup label={text}>
        {#each workspace.catalogue?.event_types ?? [] as type (type.id)}
          {#if !type.hidden}<option value="{take}/{type.name}">{text} {type.noun}</option>{/if}
        {/each}
      </optgroup>
    {/each}
  </AddChoice>
{/if}
