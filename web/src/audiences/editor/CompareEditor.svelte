<script lang="ts">
  import { COMPARISONS, MEASURED, recompared } from "./comparisons";
  import type { Comparison, FieldType } from "../definition";
  import Choice from "./Choice.svelte";

  /** How a value is compared; the value is put into the shape that the comparison needs. */
  let {
    comparison,
    type,
    measured,
    ever,
    fallback,
    change,
    close,
  }: {
    comparison: Comparison;
    type: FieldType;
    measured: boolean;
    ever: boolean | null;
    fallback: () => Promise<string | number | boolean>;
    change: (comparison: Comparison & { ever?: boolean }) => void;
    close: () => void;
  } = $props();

  const options = $derived(
    (measured ? MEASURED : COMPARISONS[type]).map(([value, text]) => ({ value, text })),
  );

  async function choose(compare: string) {
    change(recompared(comparison, compare, comparison.value === undefined ? await fallback() : ""));
  }
</script>

<Choice label="Comparison" value={comparison.compare} {options} {choose} {close} />
{#if ever !== null}
  <label class="small mt-2 flex items-center gap-2">
    <input
      type="checkbox"
      checked={ever}
      onchange={(event) => change({ ...comparison, ever: event.currentTarget.checked || undefined })}
    />
    at any time, not only now
  </label>
{/if}
