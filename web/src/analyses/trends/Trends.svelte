<script lang="ts">
  import { comparison } from "../../audiences/comparison.svelte";
  import ComparedNames from "../../audiences/ComparedNames.svelte";
  import { eventFields } from "../../audiences/editor/values";
  import LinePlot from "../../charts/LinePlot.svelte";
  import RowBars, { type RowBar } from "../../charts/RowBars.svelte";
  import type { Line as Drawn } from "../../charts/plot";
  import { address } from "../../lib/address.svelte";
  import type { Answer } from "../../lib/api/ask";
  import type { Schemas } from "../../lib/api/client";
  import { Asked } from "../../lib/asked.svelte";
  import { day, percent } from "../../lib/format";
  import { range } from "../../lib/range.svelte";
  import { workspace } from "../../lib/workspace.svelte";
  import { dateMarks, firstIncomplete } from "../../lifecycle/lifecycle";
  import PhraseSelect from "../../ui/PhraseSelect.svelte";
  import AnalysisPage from "../AnalysisPage.svelte";
  import { put, selectionText } from "../codec";
  import RangePhrases from "../RangePhrases.svelte";
  import { asksSomething, seriesText } from "../series";
  import SeriesPhrases from "../SeriesPhrases.svelte";
  import SplitBy from "../SplitBy.svelte";
  import LineKey from "./LineKey.svelte";
  import TopPhrases, { DECIDING } from "./TopPhrases.svelte";
  import { FORMS, MEASURES, ofProperty, read, type Measure } from "./question";
  import { ink, peopleIn, said, type Picture } from "./said";

  /** How a measure of what people do goes, step by step. */
  const MOST_NAMED = 7;
  let pointed = $state<number | null>(null);

  const asked = $derived.by(() => {
    const found = read();
    const fields = eventFields(found.series[0]!);
    const fitting = fields.filter(({ type }) => found.measure === "distinct" || type === "number");
    return { ...found, fields, fitting, property: found.property ?? fitting[0]?.name ?? null };
  });
  const trends = new Asked("trends", () => {
    const { series, measure, property, combined, by, byEvent, behind, top, most } = asked;
    if (!asksSomething(series)) return null;
    return {
      series,
      measure,
      ...(ofProperty(measure) ? { property } : {}),
      combined,
      from: range.from,
      ...range.until,
      step: range.step,
      behind,
      ...(byEvent ? { by_event: byEvent } : {}),
      ...(asked.values ? { ...(top ? { top } : {}), most } : {}),
      ...(by ? { by } : byEvent ? {} : { audiences: comparison.active }),
    };
  });
  const compared = $derived(asked.by || asked.byEvent ? [] : comparison.active);

  /** What cannot be measured of the events chosen is not offered. */
  const measures = $derived(
    (Object.entries(MEASURES) as [Measure, string][]).filter(
      ([measure]) =>
        !ofProperty(measure) ||
        asked.fields.some(({ type }) => measure === "distinct" || type === "number") ||
        measure === asked.measure,
    ),
  );

  /** A question of its own: what was hidden in the picture before means nothing in it. */
  function ask(changes: Record<string, string | null>) {
    pointed = null;
    put({ ...changes, hidden: null });
  }

  function lines(data: Picture): Drawn[] {
    const shares = asked.drawn === "shares";
    return data.rows.flatMap((line, index) => {
      if (asked.hidden.includes(index)) return [];
      const { colour, dashed } = ink(line, index, (id) => comparison.position(id));
      const own = {
        name: data.rows.length > 1 ? line.name : "",
        colour,
        ...(dashed ? { dash: "5 3" } : {}),
        values: (shares ? line.shares : line.values) ?? [],
      };
      if (!line.behind || shares) return [own];
      return [{ name: "before", behind: true, colour, dash: "2 4", width: 1.2, values: line.behind }, own];
    });
  }

  function bars(answer: Answer<"trends">): RowBar[] {
    const data = answer.picture;
    return data.rows.flatMap((line, index) => {
      if (asked.hidden.includes(index)) return [];
      return {
        name: line.name,
        value: line.total,
        said: line.total === null ? "–" : said(data, line.total),
        colour: ink(line, index, (id) => comparison.position(id)).colour,
        href: peopleIn(answer, index, null),
      };
    });
  }

  /** With one line its people of the period; with several they stand beside the picture. */
  function opener(answer: Answer<"trends">) {
    const drawn = [...answer.picture.rows.keys()].filter((index) => !asked.hidden.includes(index));
    if (drawn.length !== 1) return undefined;
    return (period: number) => {
      const people = peopleIn(answer, drawn[0]!, period);
      if (people) address.go(people);
    };
  }

  /** Where it is asked why a period differs from the one before; nothing where that cannot be taken apart. */
  function why(from: string): string | null {
    const { series, combined, measure } = asked;
    if (series.length > 1 || combined || (measure !== "people" && measure !== "times")) return null;
    const event = selectionText(series[0]!);
    return address.to("/analyses/change", {
      event,
      date: from,
      step: range.step,
      measure: measure === "times" ? measure : null,
    });
  }

  function whyRow(row: Schemas["AnalysisTable"]["rows"][number], key: string): string | null {
    return key === "from" ? why(String(row.values[0])) : null;
  }

  const least = (data: Picture) =>
    Math.min(0, ...data.rows.flatMap(({ values }) => values.filter((value) => value !== null)));
</script>

<AnalysisPage
  asked={trends}
  title="By {range.step}"
  name="trends"
  left={asked.left}
  tables={{ lines: {}, periods: { newest: true, href: whyRow } }}
>
  {#snippet question()}
    <PhraseSelect
      label="Measure"
      ink="what"
      value={asked.measure}
      options={measures}
      choose={(measure) => ask({ measure: measure === "people" ? null : measure, of: null })}
    />
    {#if ofProperty(asked.measure)}
      <PhraseSelect
        label="Property"
        ink="what"
        value={asked.property}
        options={asked.fitting.map(({ name, display }) => [name, display] as const)}
        choose={(of) => ask({ of })}
      /> when people
    {/if}
    <SeriesPhrases series={asked.series} change={(series) => ask(seriesText(series))}>
      {#snippet joint()}
        <PhraseSelect
          label="Combine events"
          ink="what"
          value={asked.combined}
          options={[
            ["", "and"],
            ["per", "per"],
            ["plus", "plus"],
            ["minus", "minus"],
          ]}
          choose={(combined) => ask({ combined: combined || null })}
        />
      {/snippet}
    </SeriesPhrases>,
    <RangePhrases behind until />, split by <SplitBy
      phrase
      twice
      overTime
      value={address.get("by") ?? ""}
      none={comparison.active.length ? "the comparison" : "nothing"}
      events={asked.fields}
      choose={(by) => ask({ by: by || null })}
    />{#if asked.values}<TopPhrases
        figure={asked.combined ? null : (DECIDING.find((name) => name === asked.measure) ?? null)}
        top={asked.top}
        most={asked.most}
        {ask}
      />{/if}{#if compared.length}:
      <ComparedNames />{/if}
  {/snippet}
  {#snippet beside(answer)}
    {@const forms = FORMS.filter((form) => form !== "shares" || answer.picture.rows[0]?.shares)}
    <span class="flex gap-2" role="group" aria-label="Chart type">
      {#each forms as form (form)}
        <button
          class="small cursor-pointer px-1 {asked.drawn === form ? 'font-semibold' : 'soft underline'}"
          aria-pressed={asked.drawn === form}
          onclick={() => put({ drawn: form === "lines" ? null : form })}
          >{form === "shares" ? "% of total" : form}</button
        >
      {/each}
    </span>
  {/snippet}
  {#snippet picture(answer)}
    {@const data = answer.picture}
    <div class="grid grid-cols-[minmax(0,1fr)] gap-x-8 gap-y-4 lg:grid-cols-[minmax(0,1fr)_260px]">
      {#if asked.drawn === "bars"}
        <RowBars rows={bars(answer)} label="{data.measure} over the whole period" />
      {:else}
        <LinePlot
          label="{data.measure}, by {data.step}"
          lines={lines(data)}
          xs={data.periods.map((_, index) => index)}
          marks={dateMarks(data.periods.map(({ from }) => from))}
          format={(value) => (asked.drawn === "shares" ? percent(value) : said(data, value))}
          level={(value) =>
            asked.drawn === "shares" ? percent(value) : said({ ...data, unit: null }, value)}
          least={least(data)}
          unfinished={firstIncomplete(data.periods)}
          days={data.periods}
          height={330}
          room={data.rows.length > MOST_NAMED ? 90 : 150}
          open={opener(answer)}
          narrow={(first, last) => ask({ from: data.periods[first]!.from, to: data.periods[last]!.to })}
          bind:pointed
        />
      {/if}
      <LineKey {answer} hidden={asked.hidden} pointed={asked.drawn === "bars" ? null : pointed} />
    </div>
    {@const ended = data.periods.findLast(({ complete }) => complete)}
    {#if ended && why(ended.from)}
      <p class="small mt-1">
        <a href={why(ended.from)}>Why did the last complete {data.step} change?</a>
        <span class="soft">For another {data.step}, click its date in the table.</span>
      </p>
    {/if}
    {#if data.behind}
      <p class="soft small mt-1">
        Dotted: comparison period, {day(data.behind.from)} to {day(data.behind.to)}.
      </p>
    {/if}
  {/snippet}
  {#snippet instead()}
    <p class="soft small mt-1">
      No events yet.{workspace.catalogue ? " Import a file or connect a source." : ""}
    </p>
  {/snippet}
</AnalysisPage>
