<script lang="ts">
  import type { EventCondition, FilterTree } from "../definition";
  import { COMPARISONS, recompared, shape } from "./comparisons";
  import { comparedType, conditionOn, subjectOf, subjects, type Owned } from "./eventConditions";
  import ValueInput from "./ValueInput.svelte";

  /** Conditions that all have to hold on the same event, a line each. */
  let {
    name,
    fields,
    where,
    change,
    ofPerson = false,
  }: {
    /** Of the event, for whoever cannot see where the conditions stand. */
    name: string;
    /** The properties there are, each with an event type that has it. */
    fields: Owned[];
    where: FilterTree[];
    change: (where: FilterTree[]) => void;
    /** Whether what is known of the person at that time can be asked too. */
    ofPerson?: boolean;
  } = $props();

  const MOST = 8;
  const usable = $derived(fields.filter(({ type }) => type !== "list"));
  const offered = $derived(
    subjects(usable).filter(({ value }) => ofPerson || usable.some((field) => field.name === value)),
  );

  const replace = (index: number, filter: EventCondition) =>
    change(where.map((other, position) => (position === index ? filter : other)));

  async function add() {
    change([...where, await conditionOn(offered[0]!.value, usable)]);
  }
</script>

{#each where as tree, index (index)}
  {#if tree.property || tree.attribute || tree.so_far}
    {@const filter = tree as EventCondition}
    {@const type = comparedType(filter, fields)}
    <div class="mt-1 flex flex-wrap items-center gap-2">
      <span class="small">{index ? "and" : "only where"}</span>
      <select
        aria-label="Property of {name}"
        value={subjectOf(filter)}
        onchange={async (event) => replace(index, await conditionOn(event.currentTarget.value, usable))}
      >
        {#each offered as { value, text } (value)}<option {value}>{text}</option>{/each}
      </select>
      <select
        aria-label="Comparison"
        value={filter.compare}
        onchange={(event) =>
          replace(index, recompared(filter, event.currentTarget.value, "") as EventCondition)}
      >
        {#each COMPARISONS[type].filter(([compare]) => shape(compare) === "one" || shape(compare) === "none" || compare === filter.compare) as [compare, text] (compare)}
          <option value={compare}>{text}</option>
        {/each}
      </select>
      {#if type === "boolean"}
        {#if shape(filter.compare) === "one"}
          <select
            aria-label="Value"
            value={String(filter.value)}
            onchange={(event) => replace(index, { ...filter, value: event.currentTarget.value === "true" })}
          >
            <option>true</option><option>false</option>
          </select>
        {/if}
      {:else if shape(filter.compare) === "one"}
        <span class="w-36"
          ><ValueInput
            label="Value"
            {type}
            value={Array.isArray(filter.value) ? filter.value[0] : filter.value}
            change={(value) => replace(index, { ...filter, value })}
            close={() => {}}
          /></span
        >
      {/if}
      <button
        class="quiet min-h-0! py-0.5!"
        type="button"
        aria-label="Remove this condition"
        onclick={() => change(where.filter((_, position) => position !== index))}>×</button
      >
    </div>
  {:else}<p class="small mt-1">Nested conditions: edit them under “As JSON”</p>{/if}
{/each}
{#if offered.length && where.length < MOST}
  <button
    class="small mt-1 cursor-pointer underline decoration-(--rule-strong) underline-offset-3"
    type="button"
    aria-label="{where.length ? 'and where …' : 'only where …'}, for {name}"
    onclick={add}>{where.length ? "and where …" : "only where …"}</button
  >
{/if}
