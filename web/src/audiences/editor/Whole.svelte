<script lang="ts">
  /** A whole number within limits; Enter closes. */
  let {
    label,
    value,
    change,
    close,
    min = 1,
    max = 36_500,
  }: {
    label: string;
    value: number;
    change: (value: number) => void;
    close?: () => void;
    min?: number;
    max?: number;
  } = $props();
</script>

<input
  type="number"
  class="w-24 text-right"
  aria-label={label}
  {min}
  {max}
  {value}
  oninput={(event) => {
    const typed = event.currentTarget.valueAsNumber;
    if (Number.isFinite(typed) && typed >= min) change(Math.min(max, Math.round(typed)));
  }}
  onkeydown={(event) => event.key === "Enter" && close?.()}
/>
