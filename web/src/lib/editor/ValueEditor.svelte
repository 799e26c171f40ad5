<script lang="ts">
  import { onMount } from "svelte";
  import type { Comparison, Value } from "../definition";
  import { number } from "../format";
  import OptionList from "./OptionList.svelte";
  import { fieldType, topValues, type FieldRef, type Found } from "./values";

  /** The value a field is compared with; real values are offered with how often they occur. */
  let {
    field,
    comparison,
    change,
    close,
  }: {
    field: FieldRef;
    comparison: Comparison;
    change: (changes: Partial<Comparison>) => void;
    close: () => void;
  } = $props();

  let found = $state<Found[]>([]);
  const type = $derived(fieldType(field));
  const typed = $derived(String(comparison.value ?? ""));
  const matching = $derived.by(() => {
    const wanted = typed.toLowerCase();
    const near = found.filter((entry) => entry.value.toLowerCase().includes(wanted));
    return near.length > 1 ? near : found;
  });

  onMount(async () => {
    if (type === "text" || type === "list") found = await topValues(field);
  });

  function set(value: Value) {
    change({ value });
  }

  function enter(event: KeyboardEvent) {
    if (event.key === "Enter") close();
  }
</script>

{#if type === "boolean"}
  <OptionList
    label="Value"
    value={String(comparison.value)}
    options={[
      ["true", "true"],
      ["false", "false"],
    ]}
    choose={(value) => set(value === "true")}
    {close}
  />
{:else if type === "number"}
  <input
    type="number"
    step="any"
    class="w-40 text-right"
    aria-label="Value"
    value={comparison.value}
    oninput={(event) => {
      if (event.currentTarget.value !== "") set(event.currentTarget.valueAsNumber);
    }}
    onkeydown={enter}
  />
{:else if type === "time" || type === "date"}
  <input
    type="date"
    aria-label="Value"
    value={comparison.value}
    onchange={(event) => event.currentTarget.value && set(event.currentTarget.value)}
    onkeydown={enter}
  />
{:else}
  <input
    type="text"
    class="w-full"
    aria-label="Value"
    value={comparison.value}
    oninput={(event) => set(event.currentTarget.value)}
    onkeydown={enter}
  />
  {#if found.length}
    <div class="mt-2">
      <OptionList
        label="Values there are"
        value={typed}
        options={matching.map((entry) => [entry.value, `${entry.value} (${number(entry.count)})`])}
        choose={set}
        {close}
      />
    </div>
  {/if}
  <label class="small mt-2 flex items-center gap-2">
    <input
      type="checkbox"
      checked={comparison.ignore_case ?? false}
      onchange={(event) => change({ ignore_case: event.currentTarget.checked || undefined })}
    />
    upper and lower case are the same
  </label>
{/if}
