<script lang="ts">
  import DateField from "../ui/DateField.svelte";
  import { put } from "./codec";
  import { address } from "../lib/address.svelte";
  import { day } from "../lib/format";
  import { range, RANGES, STEPS } from "../lib/range.svelte";
  import { workspace } from "../lib/workspace.svelte";
  import PhraseSelect from "../ui/PhraseSelect.svelte";

  /** In which steps and over which days something is looked at, as phrases of a sentence. */
  let { behind = false, until = false }: { behind?: boolean; until?: boolean } = $props();

  const OWN = "own";
  const BEHIND = [
    ["", "no other period"],
    ["previous", "previous period"],
    ["year", "same period last year"],
  ] as const;
  const ranges = RANGES.map(([value, name]) => [value, name] as const);
  const own = $derived(address.get("from") !== null && address.get("from") === range.from);
</script>

<PhraseSelect
  label="Interval"
  ink="when"
  value={range.step}
  options={STEPS.map((step) => [step, `by ${step}`] as const)}
  choose={(step) => put({ step: step === "week" ? null : step })}
/>, <PhraseSelect
  label="Period"
  ink="when"
  value={own ? OWN : range.name}
  options={own ? [...ranges, [OWN, "custom"]] : ranges}
  choose={(name) => put({ range: name === "365" ? null : name, from: null, to: null })}
/>, <DateField
  phrase
  label="From"
  value={range.from}
  most={workspace.asOf}
  change={(from) => put({ from })}
/> to {#if until}<DateField
    phrase
    label="To"
    value={range.to}
    least={range.from}
    most={workspace.asOf}
    change={(to) => put({ to: to === workspace.asOf ? null : to })}
  />{:else}{day(workspace.asOf)}{/if}{#if behind}, vs <PhraseSelect
    label="Compared with"
    ink="when"
    value={address.get("behind") ?? ""}
    options={BEHIND}
    choose={(name) => put({ behind: name || null })}
  />{/if}
