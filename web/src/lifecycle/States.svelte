<script lang="ts">
  import AnalysisPage from "../analyses/AnalysisPage.svelte";
  import RangePhrases from "../analyses/RangePhrases.svelte";
  import LinePlot from "../charts/LinePlot.svelte";
  import Picture from "../charts/Picture.svelte";
  import { address } from "../lib/address.svelte";
  import type { Schemas } from "../lib/api/client";
  import { Asked } from "../lib/asked.svelte";
  import { addDays, day, number } from "../lib/format";
  import { peopleOf } from "../lib/groups";
  import { range } from "../lib/range.svelte";
  import { workspace } from "../lib/workspace.svelte";
  import Groups from "./Groups.svelte";
  import { dateMarks, firstIncomplete } from "./lifecycle";
  import Movement from "./Movement.svelte";
  import type { State } from "./states";
  import StatesKey from "./StatesKey.svelte";
  import Strata from "./Strata.svelte";

  /** The states people are in, how they have moved, and where from and where to. */
  const states = new Asked("states", () => ({
    from: range.from,
    step: range.step,
    compare_with: range.compareWith,
  }));
  type Row = Schemas["AnalysisTable"]["rows"][number];

  function people(state: State, date: string): string {
    return address.to("/people", { state, as_of: date === workspace.info?.default_as_of ? null : date });
  }

  function inState(row: Row, key: string): string | null {
    return key === "people" ? people(row.values[0] as State, workspace.asOf) : null;
  }

  /** To the movement of the period. */
  function period(row: Row, key: string): string | null {
    const [from, to] = row.values as [string, string];
    return key === "to" ? address.with({ between: addDays(from, -1), and: to }) : null;
  }
</script>

<AnalysisPage
  asked={states}
  title="States over time"
  term="states"
  name="states-over-time"
  tables={{ states: { href: inState }, periods: { newest: true, href: period }, origins: {}, dormant: {} }}
>
  {#snippet question()}
    How many people are in each state, <RangePhrases behind />
  {/snippet}
  {#snippet picture(answer)}
    {@const data = answer.picture}
    <div class="grid grid-cols-[minmax(0,1fr)] gap-x-8 gap-y-4 lg:grid-cols-[minmax(0,1fr)_260px]">
      <Strata base={data} {people} />
      <StatesKey {data} {people} />
    </div>
    <p class="soft small mt-2">
      <a
        href={peopleOf([
          { lifecycle: { is: ["new", "active"], reactivated: true, ...workspace.ruleSetCondition } },
        ])}>{number(data.reactivated.now)}</a
      >
      of the new or active people were recently reactivated.
      {#if workspace.ruleSet?.population_name || workspace.ruleSet?.channel}
        These rules cover only {workspace.ruleSet.population_name
          ? `“${workspace.ruleSet.population_name}”`
          : "all people"}{workspace.ruleSet.channel ? `, reachable by ${workspace.ruleSet.channel},` : ""} as of
        {day(data.to)}.
      {/if}
    </p>
  {/snippet}
  {#snippet more(answer)}
    {@const data = answer.picture}
    {#if data.step !== "day"}
      <Picture
        title="Gain/loss ratio by {data.step}"
        term="gain_loss_ratio"
        name="gain-loss-ratio"
        finding={answer.finding}
      >
        <LinePlot
          label="Joined and reactivated ÷ lapsed"
          lines={[
            {
              name: "ratio",
              values: data.periods.map((row) => row.gain_loss_ratio),
              colour: "var(--ink)",
            },
          ]}
          xs={data.dates.map((_, index) => index)}
          marks={dateMarks(data.dates)}
          format={(value) => value.toFixed(value < 10 ? 2 : 0)}
          reference={{ at: 1, text: "" }}
          unfinished={firstIncomplete(data.periods)}
          days={data.periods}
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
          (Joined + reactivated) ÷ lapsed. 1 = stable; below 1 (hollow points) the active base is shrinking.
          Click a {data.step} to see the movement.
        </p>
      </Picture>
    {/if}
    <Movement periods={data.periods} />
    <Groups />
  {/snippet}
</AnalysisPage>
