<script lang="ts">
  /** One of several things, with its name above it. */
  let {
    label,
    name = label,
    value,
    options,
    changed,
  }: {
    label: string;
    /** What it is called where the label alone does not tell. */
    name?: string;
    value: string;
    /** Values and what is said of them. */
    options: (readonly [string, string])[];
    changed: (value: string) => void;
  } = $props();
</script>

<label class="field"
  >{label}
  <select aria-label={name} {value} onchange={(event) => changed(event.currentTarget.value)}>
    {#each options as [key, text] (key)}<option value={key}>{text}</option>{/each}
  </select></label
>
