<script lang="ts">
  import { shown } from "../lib/format";
  import { propertyField, valueSaid } from "../lib/names";

  /** Properties with their values on a line. */
  let {
    facts,
    of = null,
  }: {
    facts: Record<string, unknown>;
    /** The event type whose properties they are. */
    of?: string | null;
  } = $props();

  function said(name: string, value: unknown): string {
    const field = of ? propertyField(name, of) : undefined;
    return typeof value === "number" || typeof value === "string" ? valueSaid(field, value) : shown(value);
  }
</script>

{#each Object.entries(facts) as [name, value] (name)}
  <span class="mr-3 inline-block max-w-full break-words"
    ><span class="soft" title={name}>{(of && propertyField(name, of)?.display) || name}</span>
    {said(name, value)}</span
  >
{/each}
