<script lang="ts">
  import { COMPARISONS, needsValue, type Comparison } from "../definition";
  import OptionList from "./OptionList.svelte";
  import { fieldType, firstValue, type FieldRef } from "./values";

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
