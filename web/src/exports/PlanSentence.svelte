<script lang="ts">
  import { address } from "../lib/address.svelte";
  import type { Schemas } from "../lib/api/client";
  import { percent, plural } from "../lib/format";
  import { CHANNELS } from "../lib/channels";
  import type { Written } from "./handover";
  import PhraseSelect from "../ui/PhraseSelect.svelte";
  import PlanFile from "./PlanFile.svelte";
  import PlanSchedule from "./PlanSchedule.svelte";
  import PlanSuppression from "./PlanSuppression.svelte";

  /** A plan as numbered sentences; each underlined phrase is chosen in place. */
  let {
    plan = $bindable(),
    audiences,
    lists,
    holdouts,
    destinations,
  }: {
    plan: Written;
    audiences: Schemas["AudienceRow"][];
    lists: Schemas["ContactList"][];
    holdouts: Schemas["Holdout"][];
    destinations: Schemas["Destination"][];
  } = $props();

  const GUARDS = [0.1, 0.25, 0.5, 1];
  const MODES = [
    ["whole", "all of it each time"],
    ["changes", "only who entered and who left since the last run"],
  ] as const;
  const versions = $derived.by(() => {
    const newest = audiences.find((row) => row.id === plan.audience_id)?.version ?? 1;
    return Array.from({ length: newest }, (_, index) => String(index + 1));
  });
  const held = (row: Schemas["Holdout"]) =>
    row.share === null ? plural(row.number!, "person", "people") : percent(row.share);
  const numbered = (rows: { id: number; name: string }[]) =>
    rows.map((row) => [String(row.id), row.name] as const);
</script>

<ol class="sentence" data-testid="plan">
  <li>
    Hand over <PhraseSelect
      label="Audience"
      ink="who"
      value={plan.audience_id}
      options={numbered(audiences)}
      choose={(id) => {
        plan.audience_id = Number(id);
        plan.version = null;
      }}
    />, <PhraseSelect
      label="Version"
      ink="when"
      value={plan.version}
      options={[
        ["", "always its newest version"],
        ...versions.map((one) => [one, `in version ${one}`] as const),
      ]}
      choose={(version) => (plan.version = Number(version) || null)}
    />, <PhraseSelect
      label="Mode"
      ink="what"
      value={plan.rules.mode}
      options={MODES}
      choose={(mode) => (plan.rules.mode = mode)}
    />.
  </li>
  <li>
    They are to be reached <PhraseSelect
      label="Channel"
      ink="what"
      value={plan.rules.channel}
      options={[["", "by no message at all"], ...CHANNELS.map(([key, name]) => [key, `by ${name}`] as const)]}
      choose={(channel) => (plan.rules.channel = channel || null)}
    />{plan.rules.channel
      ? ", so whoever has no usable address, has withdrawn consent or shares an address is kept back."
      : ", so addresses and consent are not looked at."}
  </li>
  <li><PlanSuppression bind:rules={plan.rules} {lists} /></li>
  <li>
    Hold out <PhraseSelect
      label="Holdout"
      ink="state"
      value={plan.rules.holdout}
      options={[
        ["", "nobody"],
        ...holdouts.map((row) => [String(row.id), `${row.name}, ${held(row)}`] as const),
      ]}
      choose={(id) => (plan.rules.holdout = Number(id) || null)}
    /> to measure against{#if holdouts.length === 0}
      <a class="soft small ml-1" href={address.to("/exports/keeping")}>make a holdout…</a>{/if}.
  </li>
  <li>
    Put it <PhraseSelect
      label="Destination"
      ink="who"
      value={plan.destination_id}
      options={[
        ["", "here to download"],
        ...destinations.map(
          (row) =>
            [
              String(row.id),
              row.kind === "folder" ? `into ${row.name}` : `here, and push it to ${row.name},`,
            ] as const,
        ),
      ]}
      choose={(id) => (plan.destination_id = Number(id) || null)}
    /> as <PlanFile bind:file={plan.rules.file} />
  </li>
  <li>Carry it out <PlanSchedule bind:schedule={plan.rules.schedule} /></li>
  <li>
    <PhraseSelect
      label="Guard"
      ink="when"
      value={plan.rules.guard}
      options={[
        ...GUARDS.map(
          (guard) =>
            [String(guard), `Wait for a person’s word when ${percent(guard)} more or fewer`] as const,
        ),
        ["", "Never wait, however many more or fewer"],
      ]}
      choose={(guard) => (plan.rules.guard = Number(guard) || null)}
    /> are handed over than last time.
  </li>
</ol>

<style>
  .sentence {
    counter-reset: line;
    font-family: "Literata", serif;
    font-size: 1.1rem;
    line-height: 2.1rem;
    max-width: 60rem;
  }
  .sentence > li {
    counter-increment: line;
    padding-left: 2.2rem;
    position: relative;
  }
  .sentence > li::before {
    content: counter(line);
    position: absolute;
    left: 0.9rem;
    color: var(--ink-soft);
    font-family: "Atkinson Hyperlegible Next", sans-serif;
    font-size: 0.8rem;
  }
</style>
