<script lang="ts">
  import { comparison } from "../../audiences/comparison.svelte";
  import LinePlot from "../../charts/LinePlot.svelte";
  import type { Line as Drawn } from "../../charts/plot";
  import { address } from "../../lib/address.svelte";
  import type { Answer } from "../../lib/api/ask";
  import { Asked } from "../../lib/asked.svelte";
  import { percent } from "../../lib/format";
  import { peopleOf } from "../../lib/groups";
  import { range } from "../../lib/range.svelte";
  import { workspace } from "../../lib/workspace.svelte";
  import { dateMarks, firstIncomplete } from "../../lifecycle/lifecycle";
  import PhraseSelect from "../../ui/PhraseSelect.svelte";
  import { colourOf } from "../inks";
  import AnalysisPage from "../AnalysisPage.svelte";
  import EdgesField from "../EdgesField.svelte";
  import EventsPhrase from "../EventsPhrase.svelte";
  import RangePhrases from "../RangePhrases.svelte";
  import ToldApart from "../ToldApart.svelte";
  import { put, selectionText } from "../codec";
  import { asksSomething } from "../series";
  import Cohorts from "./Cohorts.svelte";
  import Key from "./Key.svelte";
  import { countedWords, edgesOf, FORMS, rangesOf, read, type Counted, type Picture } from "./question";

  /** Of people who did something, how many did something again, period by period. */
  const MARKS = 14;
  const DAYS = { day: 1, week: 7, month: 30 };
  let pointed = $state<number | null>(null);
  let group = $state(0);

  const asked = $derived(read());
  const retention = new Asked("retention", () => {
    const { start, back, starts, elapsed, counted, edges, drawn, at, by } = asked;
    if (!asksSomething([start])) return null;
    return {
      ...{ start, return: back, starts, elapsed, counted, from: range.from, step: range.step },
      ...(counted === "ranges" ? { ranges: rangesOf(edges) } : {}),
      ...(drawn === "time" ? { at } : {}),
      ...(by ? { by } : { audiences: comparison.active }),
    };
  });

  function ask(changes: Record<string, string | null>) {
    pointed = null;
    put(changes);
  }

  function curves({ rows }: Picture): Drawn[] {
    return rows.map((line, index) => ({
      name: rows.length > 1 ? line.name : "",
      colour: colourOf(line, index),
      values: line.curve.map(({ share }) => share),
      low: line.curve.map(({ low }) => low),
      high: line.curve.map(({ high }) => high),
    }));
  }

  function overTime({ rows }: Picture): Drawn[] {
    return rows.flatMap((line, index): Drawn[] => {
      const ink = colourOf(line, index);
      const own = { name: rows.length > 1 ? line.name : "", colour: ink, values: line.over_time ?? [] };
      if (!line.trend) return [own];
      return [{ name: "", behind: true, colour: ink, dash: "2 4", values: line.trend.fitted }, own];
    });
  }

  /** A few places along the axis have room for their names. */
  function marks({ places }: Picture) {
    const each = Math.ceil(places.length / MARKS);
    return places.flatMap(({ said, from }, at) =>
      at % each ? [] : [{ at, text: each === 1 && places.length < 8 ? said : String(from) }],
    );
  }

  /** Where the rules in use call people dormant, among the places of a curve of single periods. */
  function dormant({ step, counted, places }: Picture) {
    const after = workspace.ruleSet?.active_within;
    if (!after || counted === "ranges") return [];
    return [{ at: after / DAYS[step] - places[0]!.from, text: `dormant after ${after} days` }];
  }

  /** With one line the people behind a point of it; with several they are in the table. */
  function opener(answer: Answer<"retention">) {
    if (answer.picture.rows.length !== 1) return undefined;
    return (place: number) => {
      const people = answer.tables[0]?.rows[place]?.cells["people_0"];
      if (people) address.go(peopleOf([people]));
    };
  }
</script>

<AnalysisPage
  asked={retention}
  title={asked.drawn === "curve" ? "Retention curve" : `${range.step} ${asked.at} retention by cohort`}
  name="retention"
  left={asked.left}
  tables={{ curve: {} }}
>
  {#snippet question()}
    Of people who <EventsPhrase
      label="Start event"
      selection={asked.start}
      done
      change={(event) => ask({ event: selectionText(event), also: null })}
    />
    <PhraseSelect
      label="Which start"
      ink="what"
      value={asked.starts}
      options={[
        ["first", "for the first time"],
        ["each", `for the first time in each ${range.step}`],
      ]}
      choose={(starts) => ask({ starts: starts === "each" ? starts : null })}
    />, how many <EventsPhrase
      label="Return event"
      selection={asked.back}
      done
      change={(back) => ask({ return: selectionText(back) })}
    />
    <PhraseSelect
      label="Retention type"
      ink="when"
      value={asked.counted}
      options={Object.entries(countedWords(range.step))}
      choose={(counted) => ask({ counted: counted === "in" ? null : (counted as Counted) })}
    />, <PhraseSelect
      label="How time is counted"
      ink="when"
      value={asked.elapsed ? "1" : ""}
      options={[
        ["", "in calendar periods"],
        ["1", "in 24-hour days from the start event"],
      ]}
      choose={(elapsed) => ask({ elapsed: elapsed || null })}
    />; <RangePhrases />, <ToldApart
      overTime
      split={Boolean(asked.by)}
      choose={(by) => ask({ by: by || null })}
    />
  {/snippet}
  {#snippet beside(answer)}
    <span class="flex gap-2" role="group" aria-label="Drawn as">
      {#each FORMS as form (form)}
        <button
          class="small cursor-pointer px-1 {asked.drawn === form ? 'font-semibold' : 'soft underline'}"
          aria-pressed={asked.drawn === form}
          onclick={() => ask({ drawn: form === "curve" ? null : form })}
          >{form === "curve" ? "Retention curve" : "One period by cohort"}</button
        >
      {/each}
      {#if asked.drawn === "time"}
        <label class="small"
          >Which period <select
            value={String(asked.at)}
            onchange={(event) => ask({ at: event.currentTarget.value })}
          >
            {#each answer.picture.places as place (place.said)}<option value={String(place.from)}
                >{place.said}</option
              >{/each}
          </select></label
        >
      {/if}
    </span>
  {/snippet}
  {#snippet picture(answer)}
    {@const data = answer.picture}
    <div class="grid grid-cols-[minmax(0,1fr)] gap-x-8 gap-y-4 lg:grid-cols-[minmax(0,1fr)_260px]">
      {#if asked.drawn === "curve"}
        <LinePlot
          label="% of people who {data.start} who {data.return}, by {data.step}"
          lines={curves(data)}
          xs={data.places.map((_, index) => index)}
          marks={marks(data)}
          format={percent}
          height={330}
          room={data.rows.length > 1 ? 150 : 60}
          verticals={dormant(data)}
          open={opener(answer)}
          bind:pointed
        />
      {:else}
        <LinePlot
          label="Share of each cohort who {data.return} in {data.step} {asked.at}"
          lines={overTime(data)}
          xs={data.cohorts.map((_, index) => index)}
          marks={dateMarks(data.cohorts.map(({ from }) => from))}
          format={percent}
          unfinished={firstIncomplete(data.cohorts)}
          days={data.cohorts}
          height={330}
          room={data.rows.length > 1 ? 150 : 60}
          bind:pointed
        />
      {/if}
      <div data-testid="retention-key">
        <Key {data} {pointed} overTime={asked.drawn === "time"} />
        {#if asked.counted === "ranges"}
          <EdgesField label="Period boundaries (last number = end)" value={asked.edges} parse={edgesOf} />
        {/if}
      </div>
    </div>
  {/snippet}
  {#snippet more(answer)}
    {@const data = answer.picture}
    {@const shown = Math.min(group, data.rows.length - 1)}
    <div class="mt-8 flex flex-wrap items-baseline gap-x-4">
      <h2>Cohorts</h2>
      {#if data.rows.length > 1}
        <select aria-label="Group" bind:value={group}>
          {#each data.rows as line, index (index)}<option value={index}>{line.name}</option>{/each}
        </select>
      {/if}
      <span class="flex gap-2" role="group" aria-label="Figures">
        {#each ["shares", "people"] as form (form)}
          <button
            class="small cursor-pointer px-1 {asked.cells === form ? 'font-semibold' : 'soft underline'}"
            aria-pressed={asked.cells === form}
            onclick={() => put({ shown: form === "shares" ? null : form })}>{form}</button
          >
        {/each}
      </span>
    </div>
    {#if data.rows.length}<Cohorts {answer} group={shown} shares={asked.cells === "shares"} />{/if}
  {/snippet}
  {#snippet instead()}
    <p class="soft small mt-1">No events yet. Import a file or connect a source.</p>
  {/snippet}
</AnalysisPage>
