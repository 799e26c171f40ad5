<script lang="ts">
  import type { Schemas } from "../lib/api/client";
  import Described from "../ui/Described.svelte";

  /** What the values of a field are called on screen: those that are frequent, and those that have a name. */
  let {
    field,
    keep,
  }: { field: Schemas["SurveyedField"]; keep: (names: Record<string, string>) => Promise<void> } = $props();

  const values = $derived([
    ...new Set([...field.top.map(({ value }) => value), ...Object.keys(field.value_names)]),
  ]);
</script>

<details class="small">
  <summary class="soft cursor-pointer">
    {Object.keys(field.value_names).length ? "Value labels" : "Label values"}
  </summary>
  {#each values as value (value)}
    <span class="flex items-baseline gap-2">
      <span class="w-28 shrink-0 truncate" title={value}>{value || "(empty)"}</span>
      <Described
        text={field.value_names[value] ?? ""}
        label="Name of the value {value} of {field.name}"
        placeholder="raw value"
        keep={(name) => keep({ ...field.value_names, [value]: name })}
      />
    </span>
  {/each}
</details>
