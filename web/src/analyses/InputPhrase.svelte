<script lang="ts">
  /** A date or a number written where it stands in a sentence. */
  let {
    label,
    type,
    value,
    change,
    most,
  }: {
    label: string;
    type: "date" | "number";
    value: string | number;
    /** Not called with nothing. */
    change: (value: string) => void;
    most?: string | number;
  } = $props();
</script>

<input
  class="phrase ink-when {type === 'number' ? 'w-14 text-right' : ''}"
  aria-label={label}
  {type}
  {value}
  min={type === "number" ? 1 : undefined}
  max={most}
  onchange={(event) => event.currentTarget.value && change(event.currentTarget.value)}
/>
