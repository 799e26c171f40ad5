<script lang="ts">
  import { address } from "../../lib/address.svelte";
  import { answer, api, type Schemas } from "../../lib/api/client";
  import Downloads from "../../lib/components/Downloads.svelte";
  import LinePlot from "../../lib/components/LinePlot.svelte";
  import Picture from "../../lib/components/Picture.svelte";
  import Waiting from "../../lib/components/Waiting.svelte";
  import { offeredTypes } from "../../lib/editor/values";
  import { addDays, number } from "../../lib/format";
  import { audienceOf } from "../../lib/groups";
  import { Resource } from "../../lib/resource.svelte";
  import { workspace } from "../../lib/workspace.svelte";

  /** What people did before and after they did something for the first time, or around a date. */
  const DAYS = 28;
  const RANGE = 60;
  const types = $derived(offeredTypes());
  const around = $derived(address.get("around") === "date");
  const first = $derived(address.get("first") ?? types[0]?.name ?? "");
  const event = $derived(address.get("event") ?? types.find((type) => type.name !== first)?.name ?? first);
  const property = $derived(address.get("of"));
  const before = $derived(Number(address.get("before") ?? DAYS));
  const after = $derived(Number(address.get("after") ?? DAYS));
  const to = $derived(address.get("to") ?? addDays(workspace.asOf, -after));
  const from = $derived(address.get("from") ?? addDays(to, -RANGE));
  const date = $derived(address.get("date") ?? addDays(workspace.asOf, -after));
  const audience = $derived(Number(address.get("audience")) || null);
  const numbers = $derived(
    (types.find((type) => type.name === event)?.properties ?? []).filter((field) => field.type === "number"),
  );
  const audiences = new Resource(async (signal) => {
    const found = await answer(api.GET("/audiences", { params: { query: workspace.dates }, signal }));
    return found.audiences;
  });
  const study = new Resource((signal) =>
    answer(
      api.POST("/studies/before-after", {
        body: {
          ...workspace.dates,
          ...(around ? { date, audience } : { first: { event: first }, from, to }),
          measure: { event, of: property },
          before,
          after,
        },
        signal,
      }),
    ),
  );

  type Days = Schemas["BeforeAfter"]["series"];
  const change = (changes: Record<string, string | null>) =>
    address.go(address.with(changes), { replace: true });
  const means = (days: Days) => days.map((row) => (row.day === 0 ? null : row.mean));
  const lines = $derived.by(() => {
    const data = study.data;
    if (!data) return [];
    const own = {
      name: around ? "all of them" : "who did",
      colour: "var(--state-active)",
      values: means(data.series),
    };
    const others = data.matched;
    return others
      ? [own, { name: "like them", colour: "var(--ink-soft)", dash: "5 3", values: means(others.series) }]
      : [own];
  });
  const marks = $derived(
    (study.data?.series ?? [])
      .filter(({ day }) => day % 7 === 0)
      .map(({ day }) => ({ at: day, text: day === 0 ? "day 0" : String(day).replace("-", "−") })),
  );
  const rate = (value: number | null) => (value === null ? "–" : value.toFixed(3));
  const apart = (value: number) => `${value > 0 ? "+" : ""}${value.toFixed(3)}`.replace("-", "−");

  const rows = $derived.by(() => {
    const data = study.data;
    if (!data) return [];
    const own = {
      who: around ? "all of them" : "who did",
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

  const group = $derived(
    around
      ? audience
        ? [{ audience: { id: audience } }]
        : []
      : [{ first: { event: first, window: { from, to } } }],
  );
</script>

<div class="mt-4 flex flex-wrap items-end gap-x-4 gap-y-2">
  <label class="field"
    >Day 0 is
    <select
      aria-label="Day 0 is"
      value={around ? "date" : "first"}
      onchange={(changed) => change({ around: changed.currentTarget.value === "date" ? "date" : null })}
    >
      <option value="first">the first time of</option>
      <option value="date">a date for everybody</option>
    </select></label
  >
  {#if around}
    <label class="field"
      >date <input
        type="date"
        value={date}
        max={workspace.asOf}
        onchange={(changed) => change({ date: changed.currentTarget.value || null })}
      /></label
    >
    <label class="field"
      >of those in <select
        value={audience ?? ""}
        onchange={(changed) => change({ audience: changed.currentTarget.value || null })}
      >
        <option value="">the whole base</option>
        {#each audiences.data ?? [] as row (row.id)}<option value={row.id}>{row.name}</option>{/each}
      </select></label
    >
  {:else}
    <label class="field"
      >event <select
        aria-label="What was done first"
        value={first}
        onchange={(changed) => change({ first: changed.currentTarget.value })}
      >
        {#each types as type (type.name)}<option value={type.name}>{type.name}</option>{/each}
      </select></label
    >
    <label class="field"
      >from <input
        type="date"
        value={from}
        onchange={(changed) => change({ from: changed.currentTarget.value || null })}
      /></label
    >
    <label class="field"
      >to <input
        type="date"
        value={to}
        onchange={(changed) => change({ to: changed.currentTarget.value || null })}
      /></label
    >
  {/if}
  <label class="field"
    >measured by <select
      aria-label="Measured by"
      value={event}
      onchange={(changed) => change({ event: changed.currentTarget.value, of: null })}
    >
      {#each types as type (type.name)}<option value={type.name}>{type.name}</option>{/each}
    </select></label
  >
  <label class="field"
    >as <select
      aria-label="Counted or summed"
      value={property ?? ""}
      onchange={(changed) => change({ of: changed.currentTarget.value || null })}
    >
      <option value="">how often</option>
      {#each numbers as field (field.name)}<option value={field.name}>sum of {field.name}</option>{/each}
    </select></label
  >
  <label class="field"
    >days before <input
      type="number"
      class="w-20"
      min="1"
      max="365"
      value={before}
      onchange={(changed) => change({ before: changed.currentTarget.value })}
    /></label
  >
  <label class="field"
    >days after <input
      type="number"
      class="w-20"
      min="1"
      max="365"
      value={after}
      onchange={(changed) => change({ after: changed.currentTarget.value })}
    /></label
  >
</div>
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
          format={(value) => value.toFixed(2)}
          height={240}
          room={140}
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
