<script lang="ts">
  import { onMount } from "svelte";
  import { shape } from "./comparisons";
  import type { Comparison, FieldType, Value } from "../definition";
  import { number } from "../../lib/format";
  import Choice from "./Choice.svelte";
  import { topValues, type FieldRef, type Found } from "./values";
  import ValueInput from "./ValueInput.svelte";

  /** What a field is compared with: one value, several, or a range; real values are offered with how often they occur. */
  let {
    field,
    type,
    comparison,
    change,
    close,
  }: {
    field: FieldRef | null;
    type: FieldType;
    comparison: Comparison;
    change: (comparison: Comparison) => void;
    close: () => void;
  } = $props();

  let found = $state.raw<Found[]>([]);
  const form = $derived(shape(comparison.compare));
  const values = $derived([comparison.value ?? []].flat() as Value[]);
  const texts = $derived(type === "text" || type === "list");
  const options = $derived(
    found.map((entry) => ({ value: entry.value, text: entry.value, note: number(entry.count) })),
  );

  onMount(async () => {
    if (texts && field) found = await topValues(field);
  });

  function set(value: Value | Value[]) {
    change({ ...comparison, value });
  }

  function typed(text: string): Value {
    return type === "number" ? Number(text) : text;
  }
</script>

{#if type === "boolean"}
  <Choice
    label="Value"
    value={String(comparison.value)}
    options={["true", "false"].map((value) => ({ value, text: value }))}
    choose={(value) => set(value === "true")}
    {close}
  />
{:else if form === "range"}
  <label class="flex items-center gap-2">
    from <ValueInput
      label="From"
      {type}
      value={values[0]}
      change={(value) => set([value, values[1]! < value ? value : values[1]!])}
      {close}
    />
  </label>
  <label class="mt-2 flex items-center gap-2">
    to <ValueInput
      label="To"
      {type}
      value={values[1]}
      change={(value) => set([values[0]! > value ? value : values[0]!, value])}
      {close}
    />
  </label>
{:else if form === "list"}
  <ul class="mb-2">
    {#each values as value, index (index)}
      <li class="flex items-center gap-2">
        <span>{value === "" ? "(empty)" : value}</span>
        {#if values.length > 1}
          <button
            class="quiet ml-auto min-h-0!"
            aria-label="Remove {value}"
            onclick={() => set(values.filter((other) => other !== value))}>×</button
          >
        {/if}
      </li>
    {/each}
  </ul>
  {#key values.length}
    <Choice
      label="Another value"
      free
      options={options.filter((option) => !values.includes(option.value))}
      choose={(value) => {
        const next = typed(value);
        if (!Number.isNaN(next)) set([...new Set([...values, next])]);
      }}
      close={() => {}}
    />
  {/key}
{:else if texts}
  <Choice label="Value" free value={String(comparison.value ?? "")} {options} choose={set} {close} />
{:else}
  <ValueInput label="Value" {type} value={values[0]} change={set} {close} />
{/if}
{#if texts}
  <label class="small mt-2 flex items-center gap-2">
    <input
      type="checkbox"
      checked={comparison.ignore_case ?? false}
      onchange={(event) => change({ ...comparison, ignore_case: event.currentTarget.checked || undefined })}
    />
    ignore case
  </label>
{/if}
