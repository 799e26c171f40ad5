<script lang="ts">
  import { address } from "../../lib/address.svelte";
  import { answer, api, type Schemas } from "../../lib/api/client";
  import BeforeAfterForm, { type Asked } from "../../lib/components/BeforeAfterForm.svelte";
  import Downloads from "../../lib/components/Downloads.svelte";
  import LinePlot from "../../lib/components/LinePlot.svelte";
  import Picture from "../../lib/components/Picture.svelte";
  import Waiting from "../../lib/components/Waiting.svelte";
  import { offeredTypes } from "../../lib/editor/values";
  import { addDays, figure, number } from "../../lib/format";
  import { audienceOf } from "../../lib/groups";
  import { Resource } from "../../lib/resource.svelte";
  import { workspace } from "../../lib/workspace.svelte";

  /** What people did before and after they did something for the first time, or around a date. */
  const DAYS = 28;
  const RANGE = 180;
  const types = $derived(offeredTypes());
  /** Unless something else is asked: who clicked in a message, and what counts as activity. */
  const likely = $derived.by(() => {
    const names = types.map(({ name }) => name);
    const signs = (workspace.policy?.activity ?? []).map((sign) =>
      typeof sign === "string" ? sign : sign.event,
    );
    const clicked = workspace.catalogue?.messaging?.clicked ?? "";
    const first = names.includes(clicked) ? clicked : names.find((name) => !signs.includes(name));
    return {
      first: first ?? names[0] ?? "",
      event: signs.find((name) => names.includes(name)) ?? names[0] ?? "",
    };
  });
  const asked = $derived.by((): Asked => {
    const first = address.get("first") ?? likely.first;
    const after = Number(address.get("after") ?? DAYS);
    const last = addDays(workspace.asOf, -after);
    const to = address.get("to") ?? last;
    return {
      around: address.get("around") === "date",
      first,
      from: address.get("from") ?? addDays(to, -RANGE),
      to,
      date: address.get("date") ?? last,
      audience: Number(address.get("audience")) || null,
      event: address.get("event") ?? likely.event,
      property: address.get("of"),
      before: Number(address.get("before") ?? DAYS),
      after,
    };
  });
  const study = new Resource((signal) => {
    const { around, first, from, to, date, audience, event, property, before, after } = asked;
    const body = {
      ...workspace.dates,
      ...(around ? { date, audience } : { first: { event: first }, from, to }),
      measure: { event, of: property },
      before,
      after,
    };
    return answer(api.POST("/studies/before-after", { body, signal }));
  });

  type Days = Schemas["BeforeAfter"]["series"];
  const who = $derived(asked.around ? "all of them" : "who did");
  /** Where the picture begins: at nothing, or below where sums are. */
  const least = $derived(
    Math.min(
      0,
      ...[study.data?.series, study.data?.matched?.series].flatMap(
        (days) => days?.map(({ mean }) => mean ?? 0) ?? [],
      ),
    ),
  );

  /** Of each day but day 0, which counts for neither side. */
  function beside(days: Days, pick: (row: Days[number]) => number | null) {
    return days.map((row) => (row.day === 0 ? null : pick(row)));
  }

  const lines = $derived.by(() => {
    const data = study.data;
    if (!data) return [];
    const own = {
      name: who,
      colour: "var(--state-active)",
      values: beside(data.series, ({ mean }) => mean),
      low: beside(data.series, ({ low }) => (low === null ? null : Math.max(low, least))),
      high: beside(data.series, ({ high }) => high),
    };
    if (!data.matched) return [own];
    const others = beside(data.matched.series, ({ mean }) => mean);
    return [own, { name: "like them", colour: "var(--ink-soft)", dash: "5 3", values: others }];
  });
  const marks = $derived(
    (study.data?.series ?? [])
      .filter(({ day }) => day % 7 === 0)
      .map(({ day }) => ({ at: day, text: day === 0 ? "day 0" : String(day).replace("-", "−") })),
  );
  const rate = (value: number | null) => (value === null ? "–" : figure(value));
  const apart = (value: number) => `${value > 0 ? "+" : ""}${figure(value)}`.replace("-", "−");

  const rows = $derived.by(() => {
    const data = study.data;
    if (!data) return [];
    const own = {
      who,
      people: data.people,
      before: data.mean_before,
      after: data.mean_after,
      ...ends(data.difference),
    };
    if (!data.matched) return [own];
    const { pairs, own_before, own_after, mean_before, mean_after, difference } = data.matched;
    return [
      own,
      { who: "of these, matched", people: pairs, before: own_before, after: own_after, ...ends(null) },
      { who: "like them, who did not", people: pairs, before: mean_before, after: mean_after, ...ends(null) },
      { who: "change against theirs", people: pairs, before: null, after: null, ...ends(difference) },
    ];
  });

  function ends(found: Schemas["BeforeAfter"]["difference"]) {
    return { change: found?.estimate ?? null, low: found?.low ?? null, high: found?.high ?? null };
  }

  const group = $derived.by(() => {
    const { around, audience, first, from, to } = asked;
    if (around) return audience ? [{ audience: { id: audience } }] : [];
    return [{ first: { event: first, window: { from, to } } }];
  });
</script>

<BeforeAfterForm {asked} {types} />
{#if study.data && !study.problem}
  {@const data = study.data}
  <div aria-busy={study.loading}>
    <p class="says mt-4" data-testid="takeaway">{data.takeaway}</p>
    {#if data.people}
      <Picture title="{data.measure} per person and day" name="before-after" takeaway={data.takeaway}>
        {#snippet beside()}
          <a class="small" href={audienceOf(group)}>all of them as an audience</a>
          <Downloads
            name="before-after"
            rows={data.series.map((row, index) => ({
              day: row.day,
              who_did: row.mean,
              low: row.low,
              high: row.high,
              like_them: data.matched?.series[index]?.mean ?? null,
            }))}
          />
        {/snippet}
        <LinePlot
          label="Mean per person, by days from day 0"
          {lines}
          xs={data.series.map((row) => row.day)}
          {marks}
          verticals={[{ at: 0, text: "day 0" }]}
          format={figure}
          {least}
          height={240}
          room={160}
        />
      </Picture>
      <div class="mt-2 overflow-x-auto">
        <table class="figures w-auto!" data-testid="before-after">
          <thead>
            <tr
              ><th class="pr-8!">Per person and day</th><th class="number">People</th><th class="number"
                >{data.before} days before</th
              ><th class="number">{data.after} days after</th><th class="number">Change</th><th class="number"
                >95 % interval</th
              ></tr
            >
          </thead>
          <tbody>
            {#each rows as row (row.who)}
              <tr
                ><td class="pr-8!">{row.who}</td><td class="number">{number(row.people)}</td><td
                  class="number">{rate(row.before)}</td
                ><td class="number">{rate(row.after)}</td><td class="number font-semibold"
                  >{row.change === null ? "–" : apart(row.change)}</td
                ><td class="number"
                  >{row.low === null || row.high === null
                    ? "–"
                    : `${apart(row.low)} to ${apart(row.high)}`}</td
                ></tr
              >
            {/each}
          </tbody>
        </table>
      </div>
      <Downloads name="before-after-rates" {rows} />
    {/if}
    <p class="soft small mt-2 max-w-3xl">
      {#if data.known_too_late || data.not_over}Left out: {number(data.known_too_late)} who had not been known for
        {data.before} days, {number(data.not_over)} whose days after are not over.{/if}
      Day 0 counts for neither side. {data.caveat}
    </p>
  </div>
{:else}
  <Waiting problem={study.problem} retry={() => study.reload()} />
{/if}
