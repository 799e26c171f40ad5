<script lang="ts" module>
  import type { Within } from "../audiences/definition";

  const UNITS = ["minutes", "hours", "days"] as const;

  /** A length of time as it stands in the address: "7 days". */
  export function withinOf(text: string): Within | null {
    const [, count, unit] = /^(\d{1,6}) (minutes|hours|days)$/.exec(text) ?? [];
    return Number(count) >= 1 ? ({ [unit!]: Number(count) } as Within) : null;
  }
</script>

<script lang="ts">
  import PhraseSelect from "../ui/PhraseSelect.svelte";
  import { put } from "./codec";
  import InputPhrase from "./InputPhrase.svelte";

  /** A length of time as phrases of a sentence; it stands in the address as "within". */
  let { within }: { within: Within } = $props();

  const unit = $derived(UNITS.find((name) => within[name] !== undefined) ?? "days");
  const count = $derived(within[unit] ?? 1);
</script>

<InputPhrase
  label="How long"
  value={count}
  most={10_000}
  change={(count) => put({ within: `${count} ${unit}` })}
/>
<PhraseSelect
  label="Unit"
  ink="when"
  value={unit}
  options={UNITS.map((name) => [name, name] as const)}
  choose={(chosen) => put({ within: `${count} ${chosen}` })}
/>
