<script lang="ts">
  import type { Schemas } from "../lib/api/client";
  import { shown } from "../lib/format";
  import { valueSaid } from "../lib/names";

  /** Properties or attributes with their values on a line. */
  let {
    facts,
    field,
  }: {
    facts: Record<string, unknown>;
    /** What the catalogue says of one of them. */
    field: (name: string) => Schemas["Field"] | undefined;
  } = $props();

  function said(name: string, value: unknown): string {
    return typeof value === "number" || typeof value === "string"
      ? valueSaid(field(name), value)
      : shown(value);
  }
</script>

{#each Object.entries(facts) as [name, value] (name)}
  <span class="mr-3 inline-block max-w-full break-words"
    ><span class="soft" title={name}>{field(name)?.display ?? name}</span>
    {said(name, value)}</span
  >
{/each}
