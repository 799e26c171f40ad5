<script lang="ts">
  import { comparison } from "../../audiences/comparison.svelte";
  import GroupedBars from "../../charts/GroupedBars.svelte";
  import type { Answer } from "../../lib/api/ask";
  import { Asked } from "../../lib/asked.svelte";
  import { number, percent, rate } from "../../lib/format";
  import { peopleOf } from "../../lib/groups";
  import { workspace } from "../../lib/workspace.svelte";
  import DateField from "../../ui/DateField.svelte";
  import PhraseSelect from "../../ui/PhraseSelect.svelte";
  import AnalysisPage from "../AnalysisPage.svelte";
  import EdgesField from "../EdgesField.svelte";
  import KeyLine from "../KeyLine.svelte";
  import { put } from "../codec";
  import { asksSomething, seriesText } from "../series";
  import SeriesPhrases from "../SeriesPhrases.svelte";
  import ToldApart from "../ToldApart.svelte";
  import { ALONG, each, edgesOf, levelChoices, MEASURES, measureName, read, type Picture } from "./question";

  /** What people do as they get to know us. */
  type Line = Picture["rows"][number];
  const INKS = 6;

  const asked = $derived(read());
  const experience = new Asked("experience", () => {
    const { series, along, asksLevel, edges, from, by } = asked;
    if (!asksSomething(series)) return null;
    return {
      ...{ series, along, ...asksLevel },
      ...(edges ? { edges } : {}),
      ...(from ? { from } : {}),
      ...(by ? { by } : { audiences: comparison.active }),
    };
  });

  function colour(line: Line, index: number): string {
    const several = experience.data?.picture.rows.some(({ series }) => series !== line.series);
    const place = line.group.id === null || several ? index : comparison.position(line.group.id);
    return `var(--comparison-${Math.max(0, place) % INKS})`;
  }

  const values = (line: Line) => line[asked.measure];
  /** Counts of people are what they are. */
  const intervals = (line: Line) => (asked.measure === "people" ? null : line.intervals[asked.measure]);
  const said = (value: number) =>
    asked.measure === "shares" ? percent(value) : asked.measure === "people" ? number(value) : rate(value);

  const told = (value: number | null | undefined) =>
    value === null || value === undefined ? "–" : said(value);

  /** Whoever a cell of the table counts. */
  function people({ tables }: Answer<"experience">, place: number, column: string): string | null {
    const found = tables[0]?.rows[place]?.cells[column];
    return found ? peopleOf([found]) : null;
  }

  /** One of each group: who got that far is the same for all series. */
  const groups = ({ rows }: Picture) => rows.filter(({ series }) => series === rows[0]?.series);
  const short = (text: string) =>
    text.replace(/^(?:visits?|days?|weeks?) | min$/g, "").replace(/ or (?:later|more)$/, "+");
</script>

<AnalysisPage
  asked={experience}
  title="{measureName(asked.measure, asked.along).replace(/^./, (letter) =>
    letter.toUpperCase(),
  )}, by {asked.along === 'level' ? 'level' : ALONG[asked.along]}"
  name="experience"
  left={asked.left}
>
  {#snippet question()}
    How often people <SeriesPhrases series={asked.series} change={(series) => put(seriesText(series))} />: <PhraseSelect
      label="Measure"
      ink="what"
      value={asked.measure}
      options={MEASURES.filter((measure) => measure !== "rates" || each(asked.along)).map(
        (measure) => [measure, measureName(measure, asked.along)] as const,
      )}
      choose={(what) => put({ what: what === "rates" ? null : what })}
    />, by <PhraseSelect
      label="Stage"
      ink="when"
      value={asked.along}
      options={Object.entries(ALONG).filter(([along]) => along !== "level" || levelChoices().length)}
      choose={(along) => put({ along: along === "visit" ? null : along, edges: null })}
    />{#if asked.along === "level"}&nbsp;
      <PhraseSelect
        label="Level"
        ink="what"
        value={asked.level}
        options={levelChoices()}
        choose={(level) => put({ level })}
      />{/if}, among <PhraseSelect
      label="Among"
      ink="who"
      value={asked.from ? "since" : ""}
      options={[
        ["", "all people"],
        ["since", "people first seen on or after"],
      ]}
      choose={(who) => put({ from: who ? (workspace.info?.data?.oldest_day ?? workspace.asOf) : null })}
    />{#if asked.from}
      <DateField
        phrase
        label="First seen from"
        value={asked.from}
        most={workspace.asOf}
        change={(from) => put({ from })}
      /> on{/if}, <ToldApart split={Boolean(asked.by)} />
  {/snippet}
  {#snippet picture(answer)}
    {@const data = answer.picture}
    <div class="grid grid-cols-[minmax(0,1fr)] gap-x-8 gap-y-4 lg:grid-cols-[minmax(0,1fr)_260px]">
      <div class="min-w-0">
        <GroupedBars
          places={data.places.map((place) => short(place.said))}
          series={data.rows.map((line, index) => ({
            name: line.name,
            colour: colour(line, index),
            values: values(line),
            intervals: intervals(line),
            hrefs: data.places.map((_, place) => people(answer, place, `people_${index}`)),
          }))}
          label="{measureName(asked.measure, asked.along)} by stage"
          format={said}
          stacked={asked.measure === "shares" && groups(data).length === 1}
          height={270}
        />
        <p class="soft small mt-1">
          People who reached each stage{groups(data).length > 1 ? ", by group" : ""}:
        </p>
        <GroupedBars
          places={data.places.map((place) => short(place.said))}
          series={groups(data).map((line, index) => ({
            name: "reached",
            colour: groups(data).length > 1 ? colour(line, index) : "var(--rule-strong)",
            values: line.reached,
            hrefs: data.places.map((_, place) => people(answer, place, `reached_${index}`)),
          }))}
          label="People who reached each stage"
          format={number}
          height={110}
        />
      </div>
      <div data-testid="experience-key">
        <p class="soft small">First and last stage</p>
        <ul class="mt-1">
          {#each data.rows as line, index (index)}
            {@const all = values(line)}
            <KeyLine name={line.name} colour={colour(line, index)}>
              <p class="pl-5 font-semibold tabular-nums">
                {told(all[0])} → {told(all.at(-1))}
              </p>
            </KeyLine>
          {/each}
        </ul>
        <EdgesField
          label="Stage boundaries"
          value={asked.edges ?? data.places.map(({ from }) => from)}
          parse={edgesOf}
        />
      </div>
    </div>
  {/snippet}
  {#snippet instead()}
    <p class="soft small mt-1">No events yet. Import a file or connect a source.</p>
  {/snippet}
</AnalysisPage>
