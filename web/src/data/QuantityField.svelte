<script lang="ts">
  import type { Schemas } from "../lib/api/client";
  import Described from "../ui/Described.svelte";

  /** What the numbers of a field are of, and in which unit or currency. */
  let {
    field,
    keep,
  }: { field: Schemas["SurveyedField"]; keep: (said: Schemas["FieldSaid"]) => Promise<void> } = $props();

  const QUANTITIES: [Schemas["Quantity"], string][] = [
    ["number", "number"],
    ["money", "money"],
    ["duration", "duration"],
    ["distance", "distance"],
    ["share", "share (0 to 1)"],
  ];
</script>

<span class="flex items-baseline gap-1">
  <select
    class="min-h-0! py-0!"
    aria-label="Quantity of {field.name}"
    value={field.quantity ?? ""}
    onchange={(event) =>
      keep({ quantity: (event.currentTarget.value || null) as Schemas["Quantity"] | null })}
  >
    <option value="">plain number</option>
    {#each QUANTITIES as [value, text] (value)}<option {value}>{text}</option>{/each}
  </select>
  {#if field.quantity && field.quantity !== "share"}
    <Described
      text={field.unit ?? ""}
      label="Unit of {field.name}"
      placeholder={field.quantity === "money" ? "currency" : "unit"}
      most={24}
      keep={(unit) => keep({ unit })}
    />
  {/if}
</span>
