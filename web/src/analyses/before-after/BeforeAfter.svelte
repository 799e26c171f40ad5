<script lang="ts">
  import { propertyName } from "../../lib/names";
  import DateField from "../../ui/DateField.svelte";
  import { answer, api } from "../../lib/api/client";
  import { Asked } from "../../lib/asked.svelte";
  import LinePlot from "../../charts/LinePlot.svelte";
  import PhraseSelect from "../../ui/PhraseSelect.svelte";
  import { numbersOf, offeredTypes } from "../../audiences/editor/values";
  import { addDays, number, rate } from "../../lib/format";
  import { audienceOf } from "../../lib/groups";
  import { Resource } from "../../lib/resource.svelte";
  import { workspace } from "../../lib/workspace.svelte";
  import type { Schemas } from "../../lib/api/client";
  import AnalysisPage from "../AnalysisPage.svelte";
  import { put, selectionText } from "../codec";
  import EventsPhrase from "../EventsPhrase.svelte";
  import InputPhrase from "../InputPhrase.svelte";
  import { RANGE, read } from "./question";

  /** What people did before and after they did something for the first time, or around a date. */
  const names = $derived(offeredTypes().map(({ name }) => name));
  /** Unless something else is asked: who clicked in a message, and what counts as activity. */
  const likely = $derived.by(() => {
    const signs = (workspace.ruleSet?.activity ?? []).map((sign) =>
      typeof sign === "string" ? sign : sign.event,
    );
    const clicked = workspace.catalogue?.messaging?.clicked ?? "";
    const first = names.includes(clicked) ? clicked : names.find((name) => !signs.includes(name));
    return {
      first: { event: first ?? names[0] ?? "" },
      event: { event: signs.find((name) => names.includes(name)) ?? names[0] ?? "" },
    };
  });
  const asked = $derived.by(() => {
    const found = read();
    const last = addDays(workspace.asOf, -found.after);
    const to = found.to ?? last;
    return {
      ...found,
      first: found.first ?? likely.first,
      event: found.event ?? likely.event,
      to,
      from: found.from ?? addDays(to, -RANGE),
      date: found.date ?? last,
    };
  });
  const numbers = $derived(asked.event.event ? numbersOf(asked.event.event) : []);
  const found = new Asked("before-after", () => {
    const { around, first, from, to, date, audience, event, property, before, after } = asked;
    return {
      ...(around ? { date, audience } : { first, from, to }),
      metric: { ...event, ...(property ? { measure: "sum" as const, property } : {}) },
      before,
      after,
    };
  });
  const audiences = new Resource(async (signal) => {
    const list = await answer(api.GET("/audiences", { params: { query: workspace.dates }, signal }));
    return list.audiences.map((row) => [String(row.id), `people in “${row.name}”`] as const);
  });

  type Days = Schemas["RelativeDays"];
  const who = $derived(asked.around ? "all of them" : "did it");

  /** Of each day but day 0, which counts for neither side. */
  function beside(days: Days, pick: (row: Days[number]) => number | null) {
    return days.map((row) => (row.day === 0 ? null : pick(row)));
  }

  /** Where the picture begins: at nothing, or below where sums are. */
  function least(data: Schemas["BeforeAfterPicture"]): number {
    const sides = [data.series, ...(data.matched ? [data.matched.series] : [])];
    return Math.min(0, ...sides.flatMap((days) => days.map(({ mean }) => mean ?? 0)));
  }

  function lines(data: Schemas["BeforeAfterPicture"]) {
    const floor = least(data);
    const own = {
      name: who,
      colour: "var(--state-active)",
      values: beside(data.series, ({ mean }) => mean),
      low: beside(data.series, ({ low }) => (low === null ? null : Math.max(low, floor))),
      high: beside(data.series, ({ high }) => high),
    };
    if (!data.matched) return [own];
    const others = beside(data.matched.series, ({ mean }) => mean);
    return [own, { name: "matched people", colour: "var(--ink-soft)", dash: "5 3", values: others }];
  }

  function marks(days: Days) {
    return days
      .filter(({ day }) => day % 7 === 0)
      .map(({ day }) => ({ at: day, text: day === 0 ? "day 0" : String(day).replace("-", "−") }));
  }

  const group = $derived.by(() => {
    const { around, audience, first, from, to } = asked;
    if (around) return audience ? [{ audience: { id: audience } }] : [];
    return [{ first: { ...first, window: { from, to } } }];
  });
</script>

<AnalysisPage asked={found} title="Average per person per day" name="before-after" left={asked.left}>
  {#snippet question()}
    <PhraseSelect
      label="Counted or summed"
      ink="what"
      value={asked.property}
      options={[
        ["", "Number of"],
        ...numbers.map((name) => [name, `Total ${propertyName(name)} of`] as const),
      ]}
      choose={(of) => put({ of: of || null })}
    />
    <EventsPhrase
      label="What is measured"
      selection={asked.event}
      change={(event) => put({ event: selectionText(event), of: null })}
    /> per person, <InputPhrase
      label="Days before"
      value={asked.before}
      most={365}
      change={(before) => put({ before })}
    /> days before and <InputPhrase
      label="Days after"
      value={asked.after}
      most={365}
      change={(after) => put({ after })}
    /> days after <PhraseSelect
      label="Day 0"
      ink="state"
      value={asked.around ? "date" : "first"}
      options={[
        ["first", "the first"],
        ["date", "a date:"],
      ]}
      choose={(value) => put({ around: value === "date" ? "date" : null })}
    />
    {#if asked.around}
      <DateField
        phrase
        label="Date"
        value={asked.date}
        most={workspace.asOf}
        change={(date) => put({ date })}
      />, among <PhraseSelect
        label="Among"
        ink="who"
        value={asked.audience}
        options={[["", "all people"], ...(audiences.data ?? [])]}
        choose={(audience) => put({ audience: audience || null })}
      />
    {:else}
      <EventsPhrase
        label="First event"
        selection={asked.first}
        change={(first) => put({ first: selectionText(first) })}
      /> between <DateField
        phrase
        label="From"
        value={asked.from}
        most={asked.to}
        change={(from) => put({ from })}
      /> and <DateField
        phrase
        label="To"
        value={asked.to}
        most={workspace.asOf}
        change={(to) => put({ to })}
      />
    {/if}
  {/snippet}
  {#snippet picture(answer)}
    {@const data = answer.picture}
    {#if data.people}
      <LinePlot
        label="Average per person, by day relative to day 0"
        lines={lines(data)}
        xs={data.series.map((row) => row.day)}
        marks={marks(data.series)}
        verticals={[{ at: 0, text: "day 0" }]}
        format={rate}
        least={least(data)}
        height={260}
        room={160}
      />
      <p class="soft small mt-1">
        <a class="mr-4" href={audienceOf(group)}>Create audience</a>
        Day 0 is excluded.
        {#if data.known_too_late || data.not_over}Excluded: {number(data.known_too_late)} known for less than {data.before}
          days, {number(data.not_over)} whose after-period has not ended.{/if}
      </p>
    {/if}
  {/snippet}
</AnalysisPage>
