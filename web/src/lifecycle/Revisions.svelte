<script lang="ts">
  import DateField from "../ui/DateField.svelte";
  import AnalysisPage from "../analyses/AnalysisPage.svelte";
  import { put } from "../analyses/codec";
  import InputPhrase from "../analyses/InputPhrase.svelte";
  import { upTo } from "../notes/notes.svelte";
  import LinePlot from "../charts/LinePlot.svelte";
  import { address } from "../lib/address.svelte";
  import type { Schemas } from "../lib/api/client";
  import { Asked } from "../lib/asked.svelte";
  import { addDays, day, moment, number, percent } from "../lib/format";
  import { workspace } from "../lib/workspace.svelte";
  import PhraseSelect from "../ui/PhraseSelect.svelte";
  import { dateMarks } from "./lifecycle";
  import { SEEN_STATES, type State } from "./states";

  /** How the counts of past weeks have changed since: with the data received by then against with the data of now, and why. */
  type Row = Schemas["AnalysisTable"]["rows"][number];
  const WEEKS = 26;
  const ALERT = 5;
  const SHOWN = 3;
  const chosen = $derived((SEEN_STATES.find((state) => state === address.get("state")) ?? "active") as State);
  const alert = $derived(Math.max(0.1, Number(address.get("alert")) || ALERT));
  const from = $derived(address.get("from") ?? addDays(workspace.asOf, -7 * WEEKS));
  const revisions = new Asked("revisions", () => ({ from }));

  /** To the people with the data received by then, whom no definition can name, and with the data of now. */
  function people({ values }: Row, key: string): string | null {
    const as_of = String(values[0]);
    if (key !== "then" && key !== "now") return null;
    return address.to("/people", { state: chosen, as_of, ...(key === "then" ? { received_by: as_of } : {}) });
  }

  function note({ values }: Row): string | null {
    const [before, now] = values.slice(1, 3) as [number, number];
    return before > 0 && (100 * Math.abs(now - before)) / before > alert ? `above ${alert}%` : null;
  }
</script>

<AnalysisPage
  asked={revisions}
  title="{chosen[0]!.toUpperCase()}{chosen.slice(1)}: as first reported and now"
  name="revised-{chosen}"
  tables={{ [`weeks_${chosen}`]: { newest: true, href: people, note }, sources: {} }}
>
  {#snippet question()}
    How much the number of <PhraseSelect
      label="State"
      ink="state"
      value={chosen}
      options={SEEN_STATES.map((state) => [state, `${state} people`] as const)}
      choose={(state) => put({ state: state === "active" ? null : state })}
    /> has been revised, weeks from <DateField
      phrase
      label="Weeks from"
      value={from}
      most={workspace.asOf}
      change={(date) => put({ from: date })}
    />, with an alert above <InputPhrase
      label="Alert above"
      value={alert}
      most={1000}
      change={(value) => put({ alert: value })}
    />%
  {/snippet}
  {#snippet picture(answer)}
    {@const rows = answer.picture.rows}
    {#each rows
      .filter((row) => row.moved * 100 > alert)
      .slice(-SHOWN)
      .reverse() as row (row.date)}
      <p class="mt-2 max-w-3xl border-l-4 border-(--alarm) pl-3" role="status">
        Week ending {day(row.date)}: {row.most_moved} revised by {percent(row.moved)}, from {number(
          row.before[row.most_moved]!,
        )} to {number(row.now[row.most_moved]!)}. {row.hint}
      </p>
    {/each}
    {#if rows.length}
      <LinePlot
        label="People in this state at each week's end, as first reported and now"
        lines={[
          { name: "now", values: rows.map((row) => row.now[chosen]!), colour: `var(--state-${chosen})` },
          {
            name: "first reported",
            values: rows.map((row) => row.before[chosen]!),
            colour: "var(--ink-soft)",
            dash: "5 4",
          },
        ]}
        xs={rows.map((_, index) => index)}
        marks={dateMarks(rows.map((row) => row.date))}
        format={number}
        least={Math.min(...rows.flatMap((row) => [row.before[chosen]!, row.now[chosen]!])) * 0.95}
        days={upTo(rows.map((row) => row.date))}
        height={200}
        room={120}
      />
    {:else}
      <p class="soft mt-4">
        No complete week of data yet{answer.picture.first_received
          ? ` (first received ${day(answer.picture.first_received)})`
          : ""}.
      </p>
    {/if}
  {/snippet}
  {#snippet more(answer)}
    {#if answer.picture.changes.length}
      <section class="mt-7">
        <h2>Rule changes</h2>
        <ul class="mt-1">
          {#each answer.picture.changes as change (change.at + change.what)}
            <li>{moment(change.at, workspace.info!.time_zone)}: {change.what}</li>
          {/each}
        </ul>
      </section>
    {/if}
  {/snippet}
</AnalysisPage>
