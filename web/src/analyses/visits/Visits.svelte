<script lang="ts">
  import { comparison } from "../../audiences/comparison.svelte";
  import { frequentTypes } from "../../audiences/editor/values";
  import GroupedBars, { type BarSeries } from "../../charts/GroupedBars.svelte";
  import LinePlot from "../../charts/LinePlot.svelte";
  import WeekHours from "../../charts/WeekHours.svelte";
  import type { Answer } from "../../lib/api/ask";
  import { Asked } from "../../lib/asked.svelte";
  import { address } from "../../lib/address.svelte";
  import { day, month, percent } from "../../lib/format";
  import { peopleOf } from "../../lib/groups";
  import { range } from "../../lib/range.svelte";
  import { workspace } from "../../lib/workspace.svelte";
  import { dateMarks, firstIncomplete } from "../../lifecycle/lifecycle";
  import AnalysisPage from "../AnalysisPage.svelte";
  import { put } from "../codec";
  import EdgesField from "../EdgesField.svelte";
  import VisitsKey from "./VisitsKey.svelte";
  import VisitsQuestion from "./VisitsQuestion.svelte";
  import {
    edgesInSeconds,
    edgesOf,
    FIGURES,
    inUnit,
    read,
    said,
    SHOWN,
    SHOWN_AS,
    type Picture,
  } from "./question";

  /** How long and how often people visit, and when. */
  const INKS = 6;
  const COHORTS = 6;
  let pointed = $state<number | null>(null);

  const asked = $derived(read());
  const doing = $derived(asked.doing ?? { event: frequentTypes()[0] ?? "" });
  const visits = new Asked("visits", () => ({
    ...{ from: range.from, ...range.until, step: range.step, unit: asked.unit },
    ...(asked.edges ? { edges: edgesInSeconds(asked.edges, asked.unit) } : {}),
    ...(asked.ordered.order !== "visits" && (asked.by || asked.first) ? asked.ordered : {}),
    ...(asked.newness
      ? { newness: true }
      : asked.first
        ? { by_first: asked.first }
        : asked.told === "did"
          ? { by_doing: doing }
          : asked.by
            ? { by: asked.by }
            : { audiences: comparison.active }),
  }));
  const alone = $derived(!asked.told && !comparison.active.length);

  function colour(data: Picture, index: number): string {
    const id = data.rows[index]!.group.id;
    return `var(--comparison-${Math.max(0, id === null ? index : comparison.position(id)) % INKS})`;
  }

  /** Whoever paid such visits: the condition that a cell of the answer's tables carries. */
  function people({ tables }: Answer<"visits">, table: string, row: number, column: string): string | null {
    const found = tables.find(({ key }) => key === table)?.rows[row]?.cells[column];
    return found ? peopleOf([found]) : null;
  }

  function bars(answer: Answer<"visits">, what: "lengths" | "often"): BarSeries[] {
    const column = what === "lengths" ? "visits" : "people";
    return answer.picture.rows.map((row, index) => {
      const all = row[what].reduce((sum, count) => sum + count, 0) || 1;
      return {
        name: row.name,
        colour: colour(answer.picture, index),
        values: row[what].map((count) => count / all),
        hrefs: row[what].map((_, at) => people(answer, what, at, `${column}_${index}`)),
      };
    });
  }

  /** The last of those first seen, from dark to light. */
  function cohorts(data: Picture) {
    const told = data.cohorts.slice(-COHORTS);
    return told.map(({ from, seconds }, at) => ({
      name: data.step === "month" ? `${month(from)} ${from.slice(0, 4)}` : day(from).replace(/ \d{4}$/, ""),
      colour: `color-mix(in oklab, var(--comparison-0) ${100 - (told.length - 1 - at) * 18}%, var(--comparison-1))`,
      values: seconds.map((value) => inUnit("per_day", value, data.unit)),
    }));
  }

  function opener(answer: Answer<"visits">) {
    if (answer.picture.rows.length !== 1) return undefined;
    return (period: number) => {
      const href = people(answer, "periods", period, "people_0");
      if (href) address.go(href);
    };
  }

  function narrow({ periods }: Picture) {
    return (first: number, last: number) => {
      pointed = null;
      put({ from: periods[first]!.from, to: periods[last]!.to });
    };
  }

  const row = (data: Picture) => Math.min(asked.row, data.rows.length - 1);
</script>

<AnalysisPage
  asked={visits}
  title={{
    time: FIGURES[asked.figure].name,
    length: "Visits by length",
    often: "People by number of visits",
    clock: "Visits by hour of the week",
    since: "Time spent per day since first seen",
  }[asked.shown].replace(/^./, (letter) => letter.toUpperCase())}
  name="visits"
  left={asked.left}
  tables={{
    totals: {},
    ...(asked.shown === "length" ? { lengths: {} } : {}),
    ...(asked.shown === "often" ? { often: {} } : {}),
    ...(asked.shown === "since" ? { spent: { newest: true } } : {}),
    ...(asked.shown === "clock" ? { clock: {} } : {}),
    periods: { newest: true },
  }}
>
  {#snippet question()}<VisitsQuestion {asked} {doing} />{/snippet}
  {#snippet beside()}
    <span class="flex flex-wrap gap-2" role="group" aria-label="Chart type">
      {#each SHOWN as form (form)}
        <button
          class="small cursor-pointer px-1 {asked.shown === form ? 'font-semibold' : 'soft underline'}"
          aria-pressed={asked.shown === form}
          onclick={() => put({ shown: form === "time" ? null : form })}>{SHOWN_AS[form]}</button
        >
      {/each}
    </span>
  {/snippet}
  {#snippet picture(answer)}
    {@const data = answer.picture}
    {@const figure = asked.figure}
    <div class="grid grid-cols-[minmax(0,1fr)] gap-x-8 gap-y-4 lg:grid-cols-[minmax(0,1fr)_260px]">
      {#if asked.shown === "time"}
        <LinePlot
          label="{FIGURES[figure].name}, by {data.step}"
          lines={data.rows.map((line, index) => ({
            name: data.rows.length > 1 ? line.name : "",
            colour: colour(data, index),
            values: line.figures[figure].values.map((value) => inUnit(figure, value, data.unit)),
          }))}
          xs={data.periods.map((_, index) => index)}
          marks={dateMarks(data.periods.map(({ from }) => from))}
          format={(value) => said(figure, value, data.unit)}
          unfinished={firstIncomplete(data.periods)}
          days={data.periods}
          height={330}
          open={opener(answer)}
          narrow={narrow(data)}
          bind:pointed
        />
      {:else if asked.shown === "since"}
        <LinePlot
          label="Time spent per person by days since first seen"
          lines={cohorts(data)}
          xs={Array.from({ length: data.cohorts[0]?.seconds.length ?? 1 }, (_, age) => age)}
          marks={[0, 5, 10, 15, 20, 25].map((at) => ({
            at,
            text: at === 0 ? "day 0" : `day ${at}`,
          }))}
          format={(value) => said("per_day", value, data.unit)}
          height={330}
        />
      {:else if asked.shown === "clock"}
        <WeekHours
          values={data.rows[row(data)]!.clock}
          label="Visits by hour of the week{data.rows.length > 1 ? `, ${data.rows[row(data)]!.name}` : ''}"
          what="visits"
          colour={colour(data, row(data))}
          hrefs={data.rows[row(data)]!.clock.map((_, hour) =>
            people(answer, "clock", hour, `visits_${row(data)}`),
          )}
        />
      {:else}
        {@const what = asked.shown === "length" ? "lengths" : "often"}
        <GroupedBars
          places={asked.shown === "length"
            ? data.lengths
            : data.often.map((said) => said.replace(/^[\d,–]+/, "$&×"))}
          series={bars(answer, what)}
          label={asked.shown === "length" ? "Visits by length" : "People by number of visits"}
          format={percent}
        />
      {/if}
      <div>
        <VisitsKey
          {data}
          {figure}
          period={asked.shown === "time" ? pointed : null}
          chosen={asked.shown === "clock" && data.rows.length > 1 ? row(data) : null}
          colour={(index) => colour(data, index)}
        />
        {#if asked.shown === "length"}
          <EdgesField
            label="Buckets ({data.unit})"
            value={asked.edges ?? data.edges.map((edge) => inUnit("mean", edge, data.unit)!)}
            parse={edgesOf}
          />
        {/if}
      </div>
    </div>
    <p class="soft small mt-1">
      {#if asked.shown === "time"}Drag across the chart to zoom in.
        {#if range.to !== workspace.asOf}<button
            class="cursor-pointer underline"
            onclick={() => put({ from: null, to: null })}>Reset zoom</button
          >{/if}
      {:else if asked.shown === "since"}Cohorts: people first seen in each of the last {data.cohorts.slice(
          -COHORTS,
        ).length}
        {data.step}s with new people. Each day covers only people who have reached it{alone
          ? ""
          : "; all groups together"}.
      {:else if asked.shown === "clock"}Visit start times, {day(data.from)} to {day(data.to)}. Click an hour
        to see its people.
      {:else}Click a bar to see its people.{/if}
    </p>
  {/snippet}
</AnalysisPage>
