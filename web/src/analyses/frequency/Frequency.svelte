<script lang="ts">
  import { comparison } from "../../audiences/comparison.svelte";
  import GroupedBars, { type BarSeries } from "../../charts/GroupedBars.svelte";
  import LinePlot from "../../charts/LinePlot.svelte";
  import type { Answer } from "../../lib/api/ask";
  import type { Schemas } from "../../lib/api/client";
  import { Asked } from "../../lib/asked.svelte";
  import { day, decimals, number, percent } from "../../lib/format";
  import { peopleOf } from "../../lib/groups";
  import { range, STEPS } from "../../lib/range.svelte";
  import { dateMarks, firstIncomplete } from "../../lifecycle/lifecycle";
  import PhraseSelect from "../../ui/PhraseSelect.svelte";
  import AnalysisPage from "../AnalysisPage.svelte";
  import EdgesField from "../EdgesField.svelte";
  import KeyLine from "../KeyLine.svelte";
  import { put } from "../codec";
  import SincePhrase from "../SincePhrase.svelte";
  import { asksSomething, seriesText } from "../series";
  import SeriesPhrases from "../SeriesPhrases.svelte";
  import ToldApart from "../ToldApart.svelte";
  import { edgesOf, FORM_NAMES, FORMS, read, UNITS, type Unit } from "./question";

  /** How often people do something: how many did it once, twice and so on. */
  type Picture = Schemas["FrequencyPicture"];
  type Line = Picture["rows"][number];
  const INKS = 6;
  const TINTS = 8;

  const asked = $derived(read());
  const frequency = new Asked("frequency", () => {
    const { series, unit, edges, ofAll, from, by, behind, drawn } = asked;
    if (!asksSomething(series)) return null;
    return {
      ...{ series, unit, from, of_all: ofAll, behind, over_time: drawn === "time" },
      ...(edges ? { edges } : {}),
      ...(drawn === "time" ? { step: range.step } : {}),
      ...(by ? { by } : { audiences: comparison.active }),
    };
  });

  function colour(line: Line, index: number): string {
    const place = line.group.id === null ? index : comparison.position(line.group.id);
    return `var(--comparison-${Math.max(0, place) % INKS})`;
  }

  /** Whoever is in a bucket of a line: the condition that the answer's table carries. */
  function people({ tables }: Answer<"frequency">, bucket: number, line: number): string | null {
    const found = tables.find(({ key }) => key === "buckets")?.rows[bucket]?.cells[`people_${line}`];
    return found ? peopleOf([found]) : null;
  }

  function bars(answer: Answer<"frequency">): BarSeries[] {
    const stacked = asked.drawn === "stacked";
    const data = answer.picture;
    return data.rows.map((line, index) => ({
      name: line.name,
      colour: colour(line, index),
      values: stacked ? line.counts : line.shares,
      behind: line.behind,
      hrefs: data.buckets.map((_, bucket) => people(answer, bucket, index)),
    }));
  }

  /** The line whose buckets are drawn over time: the one chosen, or the first. */
  const followed = ({ rows }: Picture) => rows[asked.line] ?? rows[0];

  /** Its buckets, from light to dark. */
  function overTime(data: Picture) {
    const buckets = data.buckets.filter(({ to }) => to !== 0);
    return buckets.map(({ said }, bucket) => ({
      name: said,
      colour: `color-mix(in oklab, var(--comparison-0) ${100 - (bucket % TINTS) * 9}%, var(--comparison-1))`,
      values: (followed(data)?.over ?? []).map((shares) => shares[bucket] ?? null),
    }));
  }

  /** "those who ended a ride", "“monthly pass”". */
  function whose(data: Picture): string {
    const line = followed(data);
    return line?.group.kind === "all" ? `those who ${line.name}` : `“${line?.name ?? ""}”`;
  }

  /** "3×", "21× or more"; a plain number of days, weeks or visits. */
  const named = (unit: Unit, said: string) => (unit === "events" ? said.replace(/^[\d,–]+/, "$&×") : said);
</script>

<AnalysisPage asked={frequency} title="How often" name="frequency" left={asked.left}>
  {#snippet question()}
    How often people
    <SeriesPhrases series={asked.series} change={(series) => put(seriesText(series))} />, <SincePhrase
      from={asked.from}
    />, counted by <PhraseSelect
      label="Counted by"
      ink="what"
      value={asked.unit}
      options={Object.entries(UNITS)}
      choose={(unit) => put({ unit: unit === "events" ? null : unit })}
    />{#if asked.drawn === "time"}, <PhraseSelect
        label="Interval"
        ink="when"
        value={range.step}
        options={STEPS.map((step) => [step, `by ${step}`] as const)}
        choose={(step) => put({ step: step === "week" ? null : step })}
      />{/if}, as % of <PhraseSelect
      label="Shares of"
      ink="who"
      value={asked.ofAll ? "all" : ""}
      options={[
        ["", "people who did it"],
        ["all", "all people"],
      ]}
      choose={(who) => put({ who: who || null })}
    />, compared with <PhraseSelect
      label="Compared with"
      ink="when"
      value={asked.behind}
      options={[
        ["", "nothing"],
        ["previous", "previous period"],
        ["year", "same period last year"],
      ]}
      choose={(behind) => put({ behind: behind || null })}
    />, <ToldApart split={Boolean(asked.by)} overTime={!asked.ofAll} />
  {/snippet}
  {#snippet beside(answer)}
    {@const forms = FORMS.filter((form) => form !== "stacked" || answer.picture.rows.length > 1)}
    <span class="flex gap-2" role="group" aria-label="Chart type">
      {#each forms as form (form)}
        <button
          class="small cursor-pointer px-1 {asked.drawn === form ? 'font-semibold' : 'soft underline'}"
          aria-pressed={asked.drawn === form}
          onclick={() => put({ bars: form === "beside" ? null : form })}>{FORM_NAMES[form]}</button
        >
      {/each}
    </span>
  {/snippet}
  {#snippet picture(answer)}
    {@const data = answer.picture}
    <div class="grid grid-cols-[minmax(0,1fr)] gap-x-8 gap-y-4 lg:grid-cols-[minmax(0,1fr)_260px]">
      {#if asked.drawn === "time" && data.periods}
        <LinePlot
          label="% of {whose(data)} by number of times, by {range.step}"
          lines={overTime(data)}
          xs={data.periods.map((_, index) => index)}
          marks={dateMarks(data.periods.map(({ from }) => from))}
          format={percent}
          unfinished={firstIncomplete(data.periods)}
          days={data.periods}
          height={330}
        />
      {:else}
        <GroupedBars
          places={data.buckets.map(({ said }) => named(data.unit, said))}
          series={bars(answer)}
          label="People by number of times"
          format={asked.drawn === "stacked" ? number : percent}
          stacked={asked.drawn === "stacked"}
        />
      {/if}
      <div data-testid="frequency-key">
        <ul>
          {#each data.rows as line, index (index)}
            <KeyLine
              name={line.name}
              colour={colour(line, index)}
              figure={number(line.people)}
              strong
              chosen={line === followed(data)}
              choose={asked.drawn === "time" && data.rows.length > 1
                ? () => put({ line: index || null })
                : null}
            >
              <p class="soft small">
                {line.mean === null
                  ? "–"
                  : `mean ${decimals(line.mean, 1, 1)}, median ${decimals(line.median ?? 0, 0, 1)}`}
              </p>
            </KeyLine>
          {/each}
        </ul>
        <EdgesField
          label="Buckets: 1, 2, 5, 10 … or “every 5”"
          value={asked.edges ?? data.buckets.map(({ from }) => from).filter(Boolean)}
          parse={edgesOf}
        />
      </div>
    </div>
    <p class="soft small mt-1">
      {asked.drawn === "time"
        ? `% of ${whose(data)}.${data.rows.length > 1 ? " Choose a group on the right." : ""}`
        : "Click a bar to see its people."}
      {#if data.behind && asked.drawn === "beside"}Dashed: comparison period, {day(data.behind.from)} to {day(
          data.behind.to,
        )}.{/if}
    </p>
  {/snippet}
  {#snippet instead()}
    <p class="soft small mt-1">No events yet. Import a file or connect a source.</p>
  {/snippet}
</AnalysisPage>
