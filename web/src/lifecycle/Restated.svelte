<script lang="ts">
  import { address } from "../lib/address.svelte";
  import { Asked } from "../lib/asked.svelte";
  import Downloads from "../ui/Downloads.svelte";
  import LinePlot from "../charts/LinePlot.svelte";
  import Picture from "../charts/Picture.svelte";
  import StateMark from "./StateMark.svelte";
  import Waiting from "../ui/Waiting.svelte";
  import { addDays, day, moment, number, percent, signed } from "../lib/format";
  import { dateMarks } from "./lifecycle";
  import { SEEN_STATES, type State } from "./states";
  import { workspace } from "../lib/workspace.svelte";

  /** How the counts of past weeks have changed since: as known then against as known now, and why. */
  const CAUSES = [
    ["late", "received late"],
    ["merged", "found to be one person"],
    ["catalogue", "catalogue"],
    ["policy", "policy"],
  ] as const;
  const chosen = $derived((SEEN_STATES.find((state) => state === address.get("state")) ?? "active") as State);
  const alert = $derived(Math.max(0.1, Number(address.get("alert")) || 5));
  const from = $derived(address.get("from") ?? addDays(workspace.asOf, -7 * 26));
  const revisions = new Asked("revisions", () => ({ from }));
  const found = $derived(revisions.data?.picture);
  const rows = $derived(found?.rows ?? []);
  const alarms = $derived(rows.filter((row) => row.moved * 100 > alert));
</script>

{#if revisions.data && found}
  {@const data = found}
  {@const takeaway = revisions.data.finding}
  <p class="says mt-3 min-h-[3.7rem]" data-testid="finding">{takeaway}</p>
  <div class="mt-2 flex flex-wrap items-center gap-x-5 gap-y-2">
    <label class="small flex items-center gap-2"
      >weeks from <input
        type="date"
        value={from}
        max={workspace.asOf}
        onchange={(event) =>
          event.currentTarget.value &&
          address.go(address.with({ from: event.currentTarget.value }), { replace: true })}
      /></label
    >
    <label class="small flex items-center gap-2"
      >alert above <input
        type="number"
        class="w-20 text-right"
        min="0.1"
        max="1000"
        step="0.1"
        value={alert}
        onchange={(event) =>
          address.go(address.with({ alert: event.currentTarget.value }), { replace: true })}
      /> %</label
    >
    <div class="flex gap-2" role="group" aria-label="State">
      {#each SEEN_STATES as state (state)}
        <a
          class="quiet min-h-0! py-0.5!"
          aria-current={state === chosen ? "true" : undefined}
          href={address.with({ state: state === "active" ? null : state })}><StateMark {state} /></a
        >
      {/each}
    </div>
  </div>
  {#each alarms.slice(-3).reverse() as row (row.date)}
    <p class="mt-2 max-w-3xl border-l-4 border-(--alarm) pl-3" role="status">
      In the week to {day(row.date)}, {row.most_moved} moved by {percent(row.moved)}: {number(
        row.before[row.most_moved]!,
      )} then, {number(row.now[row.most_moved]!)} now. {row.hint}
    </p>
  {/each}
  {#if rows.length}
    <Picture
      title="{chosen[0]!.toUpperCase()}{chosen.slice(1)}: as known then, and now"
      name="restated-{chosen}"
      {takeaway}
    >
      {#snippet beside()}
        <Downloads
          name="restated"
          rows={rows.flatMap((row) =>
            SEEN_STATES.map((state) => ({
              week_to: row.date,
              state: state as string,
              then: row.before[state]!,
              now: row.now[state]!,
              ...Object.fromEntries(CAUSES.map(([cause]) => [cause, row.causes[cause]![state]!])),
            })),
          )}
        />
      {/snippet}
      <LinePlot
        label="People in this state at each week's end, as known then and as known now"
        lines={[
          { name: "now", values: rows.map((row) => row.now[chosen]!), colour: `var(--state-${chosen})` },
          {
            name: "then",
            values: rows.map((row) => row.before[chosen]!),
            colour: "var(--ink-soft)",
            dash: "5 4",
          },
        ]}
        xs={rows.map((_, index) => index)}
        marks={dateMarks(rows.map((row) => row.date))}
        format={number}
        least={Math.min(...rows.flatMap((row) => [row.before[chosen]!, row.now[chosen]!])) * 0.95}
        height={200}
        room={120}
      />
    </Picture>
    <div class="mt-2 overflow-x-auto">
      <table class="figures w-auto!" aria-label="Restated weeks" data-testid="restated">
        <thead>
          <tr>
            <th>Week to</th><th class="number">Then</th><th class="number">Now</th><th class="number"
              >Difference</th
            >
            {#each CAUSES as [cause, name] (cause)}<th class="number pl-6!">{name}</th>{/each}
          </tr>
        </thead>
        <tbody>
          {#each [...rows].reverse() as row (row.date)}
            {@const difference = row.now[chosen]! - row.before[chosen]!}
            <tr>
              <td>{day(row.date)}</td>
              <td class="number"
                ><a href={address.to("/people", { state: chosen, as_of: row.date, known_on: row.date })}
                  >{number(row.before[chosen]!)}</a
                ></td
              >
              <td class="number"
                ><a href={address.to("/people", { state: chosen, as_of: row.date })}
                  >{number(row.now[chosen]!)}</a
                ></td
              >
              <td class="number font-semibold"
                >{signed(
                  difference,
                )}{#if row.before[chosen]! > 0 && (100 * Math.abs(difference)) / row.before[chosen]! > alert}<span
                    class="ml-1 text-(--alarm)"
                    title="above {alert}%">!</span
                  >{/if}</td
              >
              {#each CAUSES as [cause] (cause)}
                {@const part = row.causes[cause]![chosen]!}
                <td class="number {part ? '' : 'soft'}">{part ? signed(part) : "0"}</td>
              {/each}
            </tr>
          {/each}
        </tbody>
      </table>
    </div>
    <p class="soft small mt-1 max-w-3xl">
      The causes are taken one after the other, in this order: late events, merged people, catalogue, policy;
      together they make up the difference. The people of a count as known then are told as one where they
      have been found to be one since.
    </p>
  {:else}
    <p class="soft mt-4">
      There is no whole week since anything was first received{data.first_received
        ? ` (${day(data.first_received)})`
        : ""}.
    </p>
  {/if}
  <div class="mt-6 grid gap-x-12 gap-y-4 md:grid-cols-2">
    {#if data.sources.length}
      <section>
        <div class="flex items-baseline gap-x-4">
          <h2>Which source delivers late</h2>
          <Downloads name="late-sources" rows={data.sources} />
        </div>
        <table class="figures mt-1" aria-label="Late events by source">
          <thead
            ><tr
              ><th>Source</th><th class="number">Events</th><th class="number"
                >Received a day later or more</th
              ><th class="number">Median delay</th></tr
            ></thead
          >
          <tbody>
            {#each data.sources as source (source.source)}
              <tr>
                <td>{source.source}</td><td class="number">{number(source.events)}</td>
                <td class="number"
                  >{number(source.late)}
                  <span class="soft small inline-block w-14"
                    >{percent(source.events ? source.late / source.events : 0)}</span
                  ></td
                >
                <td class="number">{source.median_days === null ? "–" : `${source.median_days} days`}</td>
              </tr>
            {/each}
          </tbody>
        </table>
      </section>
    {/if}
    {#if data.changes.length}
      <section>
        <h2>Changed rules</h2>
        <ul class="mt-1">
          {#each data.changes as change (change.at + change.what)}
            <li>{moment(change.at, workspace.info!.time_zone)}: {change.what}</li>
          {/each}
        </ul>
      </section>
    {/if}
  </div>
{/if}
{#if revisions.problem || !revisions.data}<Waiting of={revisions} />{/if}
