<script lang="ts">
  import { address } from "../lib/address.svelte";
  import type { Schemas } from "../lib/api/client";
  import { percent, plural } from "../lib/format";
  import { CHANNELS } from "../lib/channels";
  import type { Written } from "./exports";
  import PhraseSelect from "../ui/PhraseSelect.svelte";
  import ExportFile from "./ExportFile.svelte";
  import ExportSchedule from "./ExportSchedule.svelte";
  import ExportSuppression from "./ExportSuppression.svelte";

  /** An export as numbered sentences; each underlined phrase is chosen in place. */
  let {
    settings = $bindable(),
    audiences,
    lists,
    holdouts,
    destinations,
  }: {
    settings: Written;
    audiences: Schemas["AudienceRow"][];
    lists: Schemas["ContactList"][];
    holdouts: Schemas["Holdout"][];
    destinations: Schemas["Destination"][];
  } = $props();

  const GUARDS = [0.1, 0.25, 0.5, 1];
  const MODES = [
    ["whole", "full audience on each run"],
    ["changes", "only people who entered or left since the last run"],
  ] as const;
  const versions = $derived.by(() => {
    const newest = audiences.find((row) => row.id === settings.audience_id)?.version ?? 1;
    return Array.from({ length: newest }, (_, index) => String(index + 1));
  });
  const held = (row: Schemas["Holdout"]) =>
    row.share === null ? plural(row.number!, "person", "people") : percent(row.share);
  const numbered = (rows: { id: number; name: string }[]) =>
    rows.map((row) => [String(row.id), row.name] as const);
</script>

<ol class="sentence" data-testid="export-sentence">
  <li>
    Export <PhraseSelect
      label="Audience"
      ink="who"
      value={settings.audience_id}
      options={numbered(audiences)}
      choose={(id) => {
        settings.audience_id = Number(id);
        settings.version = null;
      }}
    />, <PhraseSelect
      label="Version"
      ink="when"
      value={settings.version}
      options={[["", "latest version"], ...versions.map((one) => [one, `in version ${one}`] as const)]}
      choose={(version) => (settings.version = Number(version) || null)}
    />, <PhraseSelect
      label="Mode"
      ink="what"
      value={settings.rules.mode}
      options={MODES}
      choose={(mode) => (settings.rules.mode = mode)}
    />.
  </li>
  <li>
    Channel: <PhraseSelect
      label="Channel"
      ink="what"
      value={settings.rules.channel}
      options={[["", "none"], ...CHANNELS.map(([key, name]) => [key, name] as const)]}
      choose={(channel) => (settings.rules.channel = channel || null)}
    />{settings.rules.channel
      ? "; people without a valid address, without consent or with a duplicate address are excluded."
      : "; addresses and consent are not checked."}
  </li>
  <li><ExportSuppression bind:rules={settings.rules} {lists} /></li>
  <li>
    Keep <PhraseSelect
      label="Holdout"
      ink="state"
      value={settings.rules.holdout}
      options={[
        ["", "no one"],
        ...holdouts.map((row) => [String(row.id), `${row.name}, ${held(row)}`] as const),
      ]}
      choose={(id) => (settings.rules.holdout = Number(id) || null)}
    /> as a control group{#if holdouts.length === 0}
      <a class="soft small ml-1" href={address.to("/exports/keeping")}>create a holdout…</a>{/if}.
  </li>
  <li>
    Deliver <PhraseSelect
      label="Destination"
      ink="who"
      value={settings.destination_id}
      options={[
        ["", "as a download"],
        ...destinations.map(
          (row) =>
            [
              String(row.id),
              row.kind === "folder" ? `to the folder ${row.name}` : `as a download and to ${row.name}`,
            ] as const,
        ),
      ]}
      choose={(id) => (settings.destination_id = Number(id) || null)}
    /> in <ExportFile bind:file={settings.rules.file} />
  </li>
  <li>Run it <ExportSchedule bind:schedule={settings.rules.schedule} /></li>
  <li>
    Require approval <PhraseSelect
      label="Guard"
      ink="when"
      value={settings.rules.guard}
      options={[
        ...GUARDS.map(
          (guard) => [String(guard), `if the count changes by more than ${percent(guard)}`] as const,
        ),
        ["", "never"],
      ]}
      choose={(guard) => (settings.rules.guard = Number(guard) || null)}
    />.
  </li>
</ol>

<style>
  .sentence {
    counter-reset: line;
    font-family: var(--font-serif);
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
    font-family: var(--font-sans);
    font-size: 0.8rem;
  }
</style>
