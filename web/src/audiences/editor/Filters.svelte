<script lang="ts">
  import type { Schemas } from "../../lib/api/client";
  import { workspace } from "../../lib/workspace.svelte";
  import type { Filter, FilterTree, StandingFilter } from "../definition";
  import { COMPARISONS, recompared, shape } from "./comparisons";
  import { fieldType, newFilter, newStanding, type FieldRef } from "./values";
  import ValueInput from "./ValueInput.svelte";

  /** Conditions that all have to hold on the same event, a line each. */
  type One = Filter | StandingFilter;
  let {
    name,
    fields,
    where,
    change,
    standing = false,
  }: {
    /** Of the event, for whoever cannot see where the conditions stand. */
    name: string;
    /** The properties there are, each with an event type that has it. */
    fields: (Schemas["Field"] & { owner: string })[];
    where: FilterTree[];
    change: (where: FilterTree[]) => void;
    /** Whether what an attribute of the person was when the event happened can be asked too. */
    standing?: boolean;
  } = $props();

  const MOST = 8;
  const ATTRIBUTE = "attribute:";
  const usable = $derived(fields.filter(({ type }) => type !== "list"));
  const attributes = $derived(
    standing ? (workspace.catalogue?.attributes ?? []).filter(({ type }) => type !== "list") : [],
  );
  const keyOf = (filter: One) => ("property" in filter ? filter.property : `${ATTRIBUTE}${filter.attribute}`);

  function refOf(filter: One): FieldRef {
    if (!("property" in filter)) return { attribute: filter.attribute };
    const owner = fields.find((field) => field.name === filter.property)?.owner ?? "";
    return { event: owner, property: filter.property };
  }

  function fresh(key: string): Promise<One> {
    if (key.startsWith(ATTRIBUTE)) return newStanding(key.slice(ATTRIBUTE.length));
    return newFilter(fields.find((field) => field.name === key)!.owner, key);
  }

  const replace = (index: number, filter: One) =>
    change(where.map((other, position) => (position === index ? filter : other)));

  async function add() {
    const first = usable[0]?.name ?? `${ATTRIBUTE}${attributes[0]!.name}`;
    change([...where, await fresh(first)]);
  }
</script>

{#each where as tree, index (index)}
  {#if tree.property || tree.attribute}
    {@const filter = tree as One}
    {@const type = fieldType(refOf(filter))}
    <div class="mt-1 flex flex-wrap items-center gap-2">
      <span class="small">{index ? "and" : "only where"}</span>
      <select
        aria-label="Property of {name}"
        value={keyOf(filter)}
        onchange={async (event) => replace(index, await fresh(event.currentTarget.value))}
      >
        {#each usable as field (field.name)}<option value={field.name}>{field.display}</option>{/each}
        {#each attributes as field (field.name)}<option value="{ATTRIBUTE}{field.name}"
            >{field.display} at that time</option
          >{/each}
      </select>
      <select
        aria-label="Comparison"
        value={filter.compare}
        onchange={(event) => replace(index, recompared(filter, event.currentTarget.value, "") as One)}
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
        aria-label="Leave this condition out"
        onclick={() => change(where.filter((_, position) => position !== index))}>×</button
      >
    </div>
  {:else}<p class="small mt-1">a group of conditions; change it in the definition</p>{/if}
{/each}
{#if usable.length + attributes.length && where.length < MOST}
  <button
    class="small mt-1 cursor-pointer underline decoration-(--rule-strong) underline-offset-3"
    type="button"
    aria-label="{where.length ? 'and where …' : 'only where …'}, for {name}"
    onclick={add}>{where.length ? "and where …" : "only where …"}</button
  >
{/if}
