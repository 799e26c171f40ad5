<script lang="ts">
  import { comparison } from "../../audiences/comparison.svelte";
  import LinePlot from "../../charts/LinePlot.svelte";
  import type { Line as Drawn } from "../../charts/plot";
  import { address } from "../../lib/address.svelte";
  import { Asked } from "../../lib/asked.svelte";
  import { number, rate } from "../../lib/format";
  import { propertyName, quantitySaid } from "../../lib/names";
  import { range } from "../../lib/range.svelte";
  import PhraseSelect from "../../ui/PhraseSelect.svelte";
  import { colourOf } from "../inks";
  import AnalysisPage from "../AnalysisPage.svelte";
  import EventsPhrase from "../EventsPhrase.svelte";
  import RangePhrases from "../RangePhrases.svelte";
  import ToldApart from "../ToldApart.svelte";
  import { put, selectionText } from "../codec";
  import { asksSomething } from "../series";
  import KeyLine from "../KeyLine.svelte";
  import { costAttributes, PEOPLE, read, SHOWN, SHOWN_WORDS, TIMES, type Picture } from "./question";

  /** What people who began with something have brought in since. */
  type Line = Picture["rows"][number];
  const MARKS = 14;
  /** What a person costs where somebody begins to say so. */
  const COST = "10";
  let pointed = $state<number | null>(null);

  const asked = $derived(read());
  const values = new Asked("cohort-value", () => {
    const { start, value, property, people, cost, by } = asked;
    if (!asksSomething([start])) return null;
    return {
      ...{ start, from: range.from, step: range.step },
      value: property
        ? { ...value, measure: "sum" as const, property }
        : { ...value, measure: people ? PEOPLE : TIMES },
      ...cost,
      ...(by ? { by } : { audiences: comparison.active }),
    };
  });

  /** The one figure that it has cost to win a person. */
  const figure = $derived(asked.cost && "cost" in asked.cost ? asked.cost.cost : null);

  const title = $derived.by(() => {
    if (!asked.people) return `Value per person, ${SHOWN_WORDS[asked.shown]}`;
    if (asked.shown === "so_far") return `Active ${range.step}s per person, cumulative`;
    return `Share of people active, ${SHOWN_WORDS[asked.shown]}`;
  });

  function ask(changes: Record<string, string | null>) {
    pointed = null;
    put(changes);
  }

  const told = ({ quantity, unit }: Picture, value: number) =>
    quantity || unit ? quantitySaid(value, quantity, unit) : rate(value);

  const figures = (line: Line) =>
    asked.shown === "so_far" ? line.cumulative : asked.shown === "running" ? line.running : line.per_person;

  /** As many places as there are periods, and those of continuations where these are drawn. */
  function width({ rows, cohorts }: Picture): number {
    if (asked.shown !== "so_far") return cohorts.length;
    return Math.max(cohorts.length, ...rows.map((line) => begun(line) + line.projection.length));
  }
  /** Where a continuation begins. */
  const begun = (line: Line) => line.cumulative.findLastIndex((value) => value !== null);

  function lines(data: Picture): Drawn[] {
    return data.rows.flatMap((line, index): Drawn[] => {
      const ink = colourOf(line, index);
      const own: Drawn = {
        name: data.rows.length > 1 ? line.name : "",
        colour: ink,
        values: figures(line),
        ...(asked.shown === "so_far" ? { low: line.low, high: line.high } : {}),
      };
      if (asked.shown !== "so_far" || !line.projection.length) return [own];
      const ahead = [...Array<null>(begun(line)).fill(null), ...line.projection];
      return [own, { name: "continued", behind: true, colour: ink, dash: "2 4", width: 1.4, values: ahead }];
    });
  }

  /** A few places along the axis have room for their names. */
  function marks({ periods }: Picture, count: number) {
    const each = Math.ceil(count / MARKS);
    return periods
      .slice(0, count)
      .flatMap((said, at) => (at % each ? [] : [{ at, text: said.replace(/^\w+ /, "") }]));
  }

  function paidBack({ payback }: Line, { periods }: Picture): string {
    if (!payback || payback.at === null) return "not yet";
    const span = [payback.low, payback.high].map((at) => (at === null ? "later" : periods[at]));
    return `by ${periods[payback.at]} (${span[0]} to ${span[1]})`;
  }

  const lastTold = (line: Line) => figures(line).findLast((value) => value !== null) ?? null;
</script>

<AnalysisPage asked={values} {title} name="cohort-value" left={asked.left}>
  {#snippet question()}
    Value per person since they first <EventsPhrase
      label="Start event"
      selection={asked.start}
      done
      change={(event) => ask({ event: selectionText(event), also: null })}
    />: <PhraseSelect
      label="Value"
      ink="what"
      value={asked.property ?? (asked.people ? PEOPLE : TIMES)}
      options={[
        ...asked.fields.map((name) => [name, `${propertyName(name)} of`] as const),
        [TIMES, "number of"] as const,
        [PEOPLE, "share who did"] as const,
      ]}
      choose={(of) => ask({ of })}
    />
    <EventsPhrase
      label="Value event"
      selection={asked.value}
      change={(value) => ask({ value: selectionText(value), of: null })}
    />, <PhraseSelect
      label="Cumulative or per period"
      ink="when"
      value={asked.shown}
      options={SHOWN.map((shown) => [shown, SHOWN_WORDS[shown]] as const)}
      choose={(what) => ask({ what: what === "so_far" ? null : what })}
    />; acquisition cost: <PhraseSelect
      label="Acquisition cost"
      ink="who"
      value={figure === null ? (address.get("cost") ?? "") : COST}
      options={[["", "none"], [COST, "fixed:"], ...costAttributes()]}
      choose={(cost) => ask({ cost: cost || null })}
    />{#if figure !== null}&nbsp;<input
        class="phrase ink-who w-16 text-right"
        type="number"
        min="0"
        step="any"
        aria-label="Acquisition cost per person"
        value={figure}
        onchange={(event) => ask({ cost: event.currentTarget.value || null })}
      /> per person{/if}; <RangePhrases />, <ToldApart
      overTime
      split={Boolean(asked.by)}
      choose={(by) => ask({ by: by || null })}
    />
  {/snippet}
  {#snippet picture(answer)}
    {@const data = answer.picture}
    {@const count = width(data)}
    {@const cost = data.rows.length === 1 ? data.rows[0]!.cost : figure}
    <div class="grid grid-cols-[minmax(0,1fr)] gap-x-8 gap-y-4 lg:grid-cols-[minmax(0,1fr)_260px]">
      <LinePlot
        label="{data.value} per person by {data.step} since they {data.start}"
        lines={lines(data)}
        xs={Array.from({ length: count }, (_, index) => index)}
        marks={marks(data, count)}
        format={(value) => told(data, value)}
        level={(value) => told({ ...data, unit: null }, value)}
        reference={asked.shown === "so_far" && cost
          ? { at: cost, text: `acquisition cost ${told(data, cost)}` }
          : null}
        height={330}
        room={data.rows.length > 1 ? 180 : 120}
        bind:pointed
      />
      <div data-testid="value-key">
        <p class="soft small">
          {pointed === null ? `Cohort size and value per person` : data.periods[pointed]}
        </p>
        <ul class="mt-1">
          {#each data.rows as line, index (index)}
            {@const value = pointed === null ? lastTold(line) : (figures(line)[pointed] ?? null)}
            <KeyLine
              name={line.name}
              colour={colourOf(line, index)}
              figure={number(line.sizes.reduce((sum, size) => sum + size, 0))}
            >
              <p class="pl-5 font-semibold tabular-nums">{value === null ? "–" : told(data, value)}</p>
              {#if line.payback}<p class="soft small pl-5">
                  payback{figure === null && line.cost !== null ? ` of ${told(data, line.cost)}` : ""}: {paidBack(
                    line,
                    data,
                  )}
                </p>{/if}
            </KeyLine>
          {/each}
        </ul>
        {#if asked.shown === "so_far" && data.rows.some(({ projection }) => projection.length)}
          <p class="soft small mt-2">Dotted: projection.</p>
        {/if}
      </div>
    </div>
  {/snippet}
  {#snippet instead()}
    <p class="soft small mt-1">No events yet. Import a file or connect a source.</p>
  {/snippet}
</AnalysisPage>
