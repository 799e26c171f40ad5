<script lang="ts">
  import { upTo } from "../notes/notes.svelte";
  import AnalysisPage from "../analyses/AnalysisPage.svelte";
  import { rowsOf } from "../analyses/DataTable.svelte";
  import RangePhrases from "../analyses/RangePhrases.svelte";
  import Bars from "../charts/Bars.svelte";
  import LinePlot from "../charts/LinePlot.svelte";
  import Picture from "../charts/Picture.svelte";
  import type { Answer } from "../lib/api/ask";
  import { Asked } from "../lib/asked.svelte";
  import { day, number, percent } from "../lib/format";
  import { peopleOf } from "../lib/groups";
  import { range } from "../lib/range.svelte";
  import Downloads from "../ui/Downloads.svelte";
  import { dateMarks, firstIncomplete } from "./lifecycle";

  /** Who is active: over trailing days, on which days of the week, how often, and for the first time or again. */
  const activity = new Asked("activity", () => ({ from: range.from, step: range.step }));
  let pointed = $state<number | null>(null);

  const table = (answer: Answer<"activity">, key: string) => answer.tables.find((one) => one.key === key)!;
</script>

<AnalysisPage
  asked={activity}
  title="Active people over time"
  name="active-people"
  tables={{ now: {}, active: { newest: true } }}
>
  {#snippet question()}
    How many people are active, <RangePhrases />
  {/snippet}
  {#snippet picture(answer)}
    {@const data = answer.picture}
    <LinePlot
      label="Active people, last 1, 7 and 28 days"
      lines={[
        { name: "28 days", values: data.trailing["28"]!, colour: "var(--state-active)", width: 2.4 },
        { name: "7 days", values: data.trailing["7"]!, colour: "var(--comparison-3)" },
        { name: "1 day", values: data.trailing["1"]!, colour: "var(--comparison-4)" },
      ]}
      xs={data.dates.map((_, index) => index)}
      marks={dateMarks(data.dates)}
      format={number}
      unfinished={firstIncomplete(data.periods)}
      days={upTo(data.dates)}
      room={120}
      bind:pointed
    />
    <p class="mt-1 flex min-h-7 flex-wrap gap-x-5" aria-live="polite">
      {#if pointed !== null && data.dates[pointed]}
        <strong>{day(data.dates[pointed])}</strong>
        <span
          >{number(data.periods[pointed]!.new)} first-time, {number(data.periods[pointed]!.again)} returning</span
        >
      {/if}
    </p>
  {/snippet}
  {#snippet more(answer)}
    {@const data = answer.picture}
    {@const often = table(answer, "often")}
    <Picture title="First-time and returning active people" name="new-and-returning" finding={answer.finding}>
      <LinePlot
        label="Active people per period, first-time and returning"
        lines={[
          { name: "returning", values: data.periods.map((row) => row.again), colour: "var(--state-active)" },
          { name: "first-time", values: data.periods.map((row) => row.new), colour: "var(--state-new)" },
        ]}
        xs={data.dates.map((_, index) => index)}
        marks={dateMarks(data.dates)}
        format={number}
        unfinished={firstIncomplete(data.periods)}
        height={180}
        room={120}
      />
    </Picture>
    <div class="grid gap-x-12 lg:grid-cols-2">
      <Picture title="Active people by day of the week" name="weekdays" finding={answer.finding}>
        {#snippet beside()}<Downloads name="weekdays" rows={rowsOf(table(answer, "weekdays"))} />{/snippet}
        <Bars
          label="Mean active people by day of the week"
          bars={table(answer, "weekdays").rows.map(({ values: [name, mean] }) => ({
            name: String(name).slice(0, 3),
            value: mean as number | null,
          }))}
        />
        <p class="soft small">Average of the complete days in the period.</p>
      </Picture>
      <Picture
        title="Days active in the last {data.stickiness.window}"
        name="stickiness"
        finding={answer.finding}
      >
        {#snippet beside()}<Downloads name="stickiness" rows={rowsOf(often)} />{/snippet}
        <Bars
          label="People by the number of days they were active on"
          bars={often.rows.map(({ values: [days, people], people: group }) => ({
            name: String(days),
            value: people as number,
            href: group && peopleOf([group], answer.as_of),
            says: `${number(people as number)} people active on ${days} of ${data.stickiness.window} days`,
          }))}
          width={520}
        />
        <p class="soft small">
          {number(data.stickiness.people)} people. Stickiness:
          {data.stickiness.share === null ? "–" : percent(data.stickiness.share)} are active on an average day.
        </p>
      </Picture>
    </div>
  {/snippet}
</AnalysisPage>
