<script lang="ts">
  import { address } from "../lib/address.svelte";
  import type { Schemas } from "../lib/api/client";
  import { Asked } from "../lib/asked.svelte";
  import BaseGroups from "./BaseGroups.svelte";
  import Downloads from "../ui/Downloads.svelte";
  import DormantPeople from "./DormantPeople.svelte";
  import LinePlot from "../charts/LinePlot.svelte";
  import MovementTable from "./MovementTable.svelte";
  import Periods from "./Periods.svelte";
  import Picture from "../charts/Picture.svelte";
  import RangeChoice from "../ui/RangeChoice.svelte";
  import StateMark from "./StateMark.svelte";
  import Strata from "./Strata.svelte";
  import Waiting from "../ui/Waiting.svelte";
  import { addDays, day, number, percent, signed } from "../lib/format";
  import { peopleOf } from "../lib/groups";
  import { dateMarks, firstIncomplete } from "./lifecycle";
  import { range } from "../lib/range.svelte";
  import { meaning, SEEN_STATES, type State } from "./states";
  import { workspace } from "../lib/workspace.svelte";

  /** The states of the base, how they have moved, and where from and where to. */
  const states = new Asked("states", () => ({
    from: range.from,
    step: range.step,
    compare_with: range.compareWith,
  }));
  const base = $derived(states.data?.picture);

  // The two days between which people are shown to have moved: the last complete period, or those chosen.
  const ends = $derived.by(() => {
    const chosen = [address.get("between"), address.get("and")];
    if (chosen[0] && chosen[1]) return { before: chosen[0], to: chosen[1] };
    const period = base?.periods.findLast((row) => row.complete) ?? base?.periods.at(-1);
    return period ? { before: addDays(period.from, -1), to: period.to } : null;
  });
  const movement = new Asked("state-movement", () => ends && { from: ends.before, as_of: ends.to });

  function people(state: State, date: string): string {
    return address.to("/people", { state, as_of: date === workspace.info?.default_as_of ? null : date });
  }

  function choose(name: "between" | "and", value: string) {
    if (!ends || !value) return;
    address.go(address.with({ between: ends.before, and: ends.to, [name]: value }), { replace: true });
  }

  const seen = $derived(
    base ? SEEN_STATES.map((state) => base.states.find((row) => row.state === state)!) : [],
  );
  const unseen = $derived(base?.states.find((row) => row.state === "unseen"));
  const ratios = $derived(base?.periods.map((row) => row.replacement_ratio) ?? []);
  const unfinished = $derived(firstIncomplete(base?.periods ?? []));

  function stateRows(data: Schemas["StatesPicture"]) {
    return data.dates.map((date, index) => ({
      date,
      ...Object.fromEntries(
        ["unseen", ...SEEN_STATES].map((state) => [state, data.counts[state as State][index]!]),
      ),
      returned: data.returned.counts[index]!,
      complete: data.periods[index]!.complete,
    }));
  }
</script>

{#if states.data && base}
  {@const data = base}
  {@const takeaway = states.data.finding}
  <p class="says mt-3 min-h-[3.7rem]" data-testid="finding">{takeaway}</p>

  <div class="mt-4 overflow-x-auto">
    <table class="figures max-w-[60rem]" aria-label="People in each state">
      <thead>
        <tr>
          <th>State</th>
          <th class="number">People</th>
          <th class="number">Share</th>
          <th class="number">{day(data.before)}</th>
          <th class="number">Change</th>
          <th class="pl-6!">Meaning</th>
        </tr>
      </thead>
      <tbody>
        {#each seen as row (row.state)}
          <tr>
            <td><StateMark state={row.state} /></td>
            <td class="number text-[1.05rem] font-semibold">
              <a href={people(row.state, data.to)} data-testid="count-{row.state}">{number(row.count)}</a>
            </td>
            <td class="number">{percent(row.share)}</td>
            <td class="number soft">{number(row.before)}</td>
            <td class="number">{signed(row.change)}</td>
            <td class="soft small pl-6! leading-6 whitespace-nowrap">
              {workspace.policy ? meaning(row.state, workspace.policy) : ""}
            </td>
          </tr>
        {/each}
      </tbody>
    </table>
  </div>
  <p class="soft small mt-1">
    <span class="mr-4"><Downloads name="states" rows={data.states} /></span>
    Of those new or active,
    <a href={peopleOf([{ lifecycle: { is: ["new", "active"], returned: true, ...workspace.policyClause } }])}
      >{number(data.returned.now)}</a
    >
    have just come back after being quiet.
    {#if unseen && unseen.count > 0}
      {number(data.people)} people had been seen by then;
      <a href={people("unseen", data.to)}>{number(unseen.count)}</a> of them without any activity.
    {/if}
    {#if workspace.policy?.population_name || workspace.policy?.channel}
      The policy is about {workspace.policy.population_name
        ? `“${workspace.policy.population_name}”`
        : "everybody"}{workspace.policy.channel ? ` who can be reached by ${workspace.policy.channel}` : ""} as
      of {day(data.to)}; nobody else is counted.
    {/if}
  </p>

  <div class="mt-6"><RangeChoice behind /></div>
  <Picture title="The base over time" name="base" {takeaway}>
    {#snippet beside()}<Downloads name="base" rows={stateRows(data)} />{/snippet}
    <Strata base={data} {people} />
  </Picture>

  <BaseGroups {takeaway} />

  {#if range.step !== "day"}
    <Picture title="Replacement ratio, {range.step} by {range.step}" name="replacement-ratio" {takeaway}>
      <LinePlot
        label="Joined and returned for each who lapsed"
        lines={[{ name: "ratio", values: ratios, colour: "var(--ink)" }]}
        xs={data.dates.map((_, index) => index)}
        marks={dateMarks(data.dates)}
        format={(value) => value.toFixed(value < 10 ? 2 : 0)}
        reference={{ at: 1, text: "" }}
        {unfinished}
        height={190}
        log
        room={110}
        open={(index) =>
          address.go(
            address.with({ between: addDays(data.periods[index]!.from, -1), and: data.periods[index]!.to }),
            { replace: true },
          )}
      />
      <p class="soft small">
        Joined and returned for each who lapsed. At 1 as many come as go; below it, where marks are hollow,
        the base shrinks. Click a week to see its movements.
      </p>
    </Picture>
  {/if}
  <Periods base={data} />

  {#if ends}
    <section class="mt-7" id="movement">
      <div class="flex flex-wrap items-center gap-x-4 gap-y-2">
        <h2>From state to state</h2>
        <label class="small flex items-center gap-2">
          end of <input
            type="date"
            value={ends.before}
            max={workspace.asOf}
            onchange={(event) => choose("between", event.currentTarget.value)}
          />
        </label>
        <label class="small flex items-center gap-2">
          to end of <input
            type="date"
            value={ends.to}
            max={workspace.info?.today}
            onchange={(event) => choose("and", event.currentTarget.value)}
          />
        </label>
      </div>
      {#if movement.data && !movement.problem}<MovementTable
          movement={movement.data.picture}
          before={ends.before}
        />
      {:else}<Waiting of={movement} />{/if}
    </section>
  {/if}

  <DormantPeople base={data} />
{/if}
{#if states.problem || !states.data}<Waiting of={states} />{/if}
