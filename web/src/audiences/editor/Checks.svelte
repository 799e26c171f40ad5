<script lang="ts">
  /** Which of a few; at least one stays chosen unless none is allowed. */
  let {
    options,
    chosen,
    change,
    none = false,
  }: {
    options: [string, string][];
    chosen: string[];
    change: (chosen: string[]) => void;
    none?: boolean;
  } = $props();

  function toggle(value: string, on: boolean) {
    const next = options.map(([key]) => key).filter((key) => (key === value ? on : chosen.includes(key)));
    if (next.length || none) change(next);
  }
</script>

{#each options as [value, text] (value)}
  <label class="flex items-center gap-2 py-0.5">
    <input
      type="checkbox"
      checked={chosen.includes(value)}
      disabled={!none && chosen.length === 1 && chosen[0] === value}
      onchange={(event) => toggle(value, event.currentTarget.checked)}
    />
    {text}
  </label>
{/each}
