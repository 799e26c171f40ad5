<script lang="ts">
  import { COMPARISONS, needsValue, type Attribute, type Comparison } from "../definition";
  import OptionList from "./OptionList.svelte";
  import { fieldType, firstValue, type FieldRef } from "./values";

  let {
    field,
    comparison,
    change,
    close,
  }: {
    field: FieldRef;
    comparison: Comparison & { ever?: boolean };
    change: (changes: Partial<Attribute>) => void;
    close: () => void;
  } = $props();

  async function choose(compare: string) {
    if (!needsValue(compare)) change({ compare, value: undefined, ignore_case: undefined });
    else change({ compare, value: comparison.value ?? (await firstValue(field)) });
  }
</script>

<OptionList
  label="Comparison"
  value={comparison.compare}
  options={COMPARISONS[fieldType(field)]}
  {choose}
  {close}
/>
{#if "attribute" in field}
  <label class="small mt-2 flex items-center gap-2">
    <input
      type="checkbox"
      checked={comparison.ever ?? false}
      onchange={(event) => change({ ever: event.currentTarget.checked || undefined })}
    />
    was ever so, not only now
  </label>
{/if}
