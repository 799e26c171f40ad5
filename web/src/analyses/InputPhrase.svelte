<script lang="ts">
  /** A number written where it stands in a sentence. */
  let {
    label,
    value,
    change,
    most,
  }: {
    label: string;
    value: string | number;
    /** Not called with nothing. */
    change: (value: string) => void;
    most?: string | number;
  } = $props();
</script>

<input
  class="phrase ink-when w-14 text-right"
  type="number"
  aria-label={label}
  {value}
  min={1}
  max={most}
  onchange={(event) => event.currentTarget.value && change(event.currentTarget.value)}
/>
