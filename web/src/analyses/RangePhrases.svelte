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
    ["", "nothing"],
    ["previous", "previous period"],
    ["year", "a year before"],
  ] as const;
  const ranges = RANGES.map(([value, name]) => [value, name] as const);
  const own = $derived(address.get("from") !== null && address.get("from") === range.from);
</script>

<PhraseSelect
  label="Step"
  ink="when"
  value={range.step}
  options={STEPS.map((step) => [step, `${step} by ${step}`] as const)}
  choose={(step) => put({ step: step === "week" ? null : step })}
/>, over <PhraseSelect
  label="Range"
  ink="when"
  value={own ? OWN : range.name}
  options={own ? [...ranges, [OWN, "the days"]] : ranges}
  choose={(name) => put({ range: name === "365" ? null : name, from: null, to: null })}
/> from <DateField
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
  />{:else}{day(workspace.asOf)}{/if}{#if behind}, compared with <PhraseSelect
    label="Compared with"
    ink="when"
    value={address.get("behind") ?? ""}
    options={BEHIND}
    choose={(name) => put({ behind: name || null })}
  />{/if}
