<script lang="ts">
  import { Asked } from "../lib/asked.svelte";
  import Bars from "../charts/Bars.svelte";
  import Downloads from "../ui/Downloads.svelte";
  import LinePlot from "../charts/LinePlot.svelte";
  import Picture from "../charts/Picture.svelte";
  import RangeChoice from "../ui/RangeChoice.svelte";
  import Waiting from "../ui/Waiting.svelte";
  import { day, number, percent, signed } from "../lib/format";
  import { peopleOf } from "../lib/groups";
  import { dateMarks, firstIncomplete } from "./lifecycle";
  import { range } from "../lib/range.svelte";
  import { workspace } from "../lib/workspace.svelte";

  /** Who is active: over trailing days, on which days of the week, how often, and for the first time or again. */
  const WINDOWS = ["1", "7", "28", "30"] as const;
  const DAYS = ["Mon", "Tue", "Wed", "Thu", "Fri", "Sat", "Sun"];
  const activity = new Asked("activity", () => ({ from: range.from, step: range.step }));
  const found = $derived(activity.data?.picture);
  let pointed = $state<number | null>(null);
  const unfinished = $derived(firstIncomplete(found?.periods ?? []));
  const devices = $derived((found?.devices.total?.at(-1) ?? 0) > 0);

  /** People with any activity within the last days: a definition can say it where no event needs a condition. */
  function people(window: string, date: string, count: object = { at_least: 1 }): string | null {
    const policy = workspace.policy;
    const signs = policy?.activity ?? [];
    if (signs.some((sign) => typeof sign !== "string") || policy?.population || policy?.channel) return null;
    const did = { events: signs, count, window: { last_days: Number(window) } };
    return peopleOf([{ did }], date);
  }
</script>

{#if activity.data && found}
  {@const data = found}
  {@const takeaway = activity.data.finding}
  <p class="says mt-3 min-h-[3.7rem]" data-testid="finding">{takeaway}</p>
  <div class="mt-3"><RangeChoice /></div>

  <div class="mt-4 overflow-x-auto">
    <table class="figures w-auto!" aria-label="Active people">
      <thead>
        <tr>
          <th>Active within</th>
          <th class="number">People</th>
          <th class="number pl-6!">The same days before</th>
          <th class="number">Growth</th>
          {#if devices}<th class="number pl-6!">Devices</th>{/if}
        </tr>
      </thead>
      <tbody>
        {#each WINDOWS as window (window)}
          {@const growth = data.growth[window]!}
          {@const link = people(window, data.to)}
          <tr>
            <td>{window === "1" ? "the last day" : `the last ${window} days`}</td>
            <td class="number font-semibold">
              {#if link}<a href={link}>{number(growth.now)}</a>{:else}{number(growth.now)}{/if}
            </td>
            <td class="number soft">{number(growth.before)}</td>
            <td class="number"
              >{growth.share === null
                ? "–"
                : `${growth.share > 0 ? "+" : growth.share < 0 ? "−" : "±"}${percent(Math.abs(growth.share))}`}
              <span class="soft small ml-2 inline-block w-14">{signed(growth.now - growth.before)}</span></td
            >
            {#if devices}<td class="number">{number(data.devices[window]!.at(-1)!)}</td>{/if}
          </tr>
        {/each}
        <tr>
          <td>ever</td>
          <td class="number font-semibold">{number(data.trailing.total!.at(-1)!)}</td>
          <td></td><td></td>
          {#if devices}<td class="number">{number(data.devices.total!.at(-1)!)}</td>{/if}
        </tr>
      </tbody>
    </table>
  </div>
  {#if devices}
    <p class="soft small mt-1 max-w-prose">
      Devices are the visitor identifiers that activity came by. One person may use several, several people
      one; what came by another identifier has none.
    </p>
  {/if}

  <p class="mt-1">
    <Downloads
      name="active-now"
      rows={WINDOWS.map((window) => ({
        within_days: Number(window),
        people: data.growth[window]!.now,
        before: data.growth[window]!.before,
        growth: data.growth[window]!.share,
        devices: data.devices[window]!.at(-1)!,
      }))}
    />
  </p>

  <Picture title="Active people over time" name="active-people" {takeaway}>
    {#snippet beside()}
      <Downloads
        name="active-people"
        rows={data.dates.map((date, index) => ({
          date,
          ...Object.fromEntries(
            [...WINDOWS, "total"].map((window) => [`people_${window}`, data.trailing[window]![index]!]),
          ),
          ...Object.fromEntries(
            [...WINDOWS, "total"].map((window) => [`devices_${window}`, data.devices[window]![index]!]),
          ),
          complete: data.periods[index]!.complete,
        }))}
      />
    {/snippet}
    <LinePlot
      label="People active within 1, 7 and 28 days"
      lines={[
        { name: "28 days", values: data.trailing["28"]!, colour: "var(--state-active)", width: 2.4 },
        { name: "7 days", values: data.trailing["7"]!, colour: "var(--tray-3)" },
        { name: "1 day", values: data.trailing["1"]!, colour: "var(--tray-4)" },
      ]}
      xs={data.dates.map((_, index) => index)}
      marks={dateMarks(data.dates)}
      format={number}
      {unfinished}
      room={120}
      bind:pointed
    />
  </Picture>
  <p class="mt-1 flex min-h-7 flex-wrap gap-x-5" aria-live="polite">
    {#if pointed !== null && data.dates[pointed]}
      <strong>{day(data.dates[pointed])}</strong>
      <span
        >{number(data.periods[pointed]!.new)} active for the first time, {number(
          data.periods[pointed]!.again,
        )} again</span
      >
    {/if}
  </p>

  <Picture title="For the first time, and again" name="new-and-returning" {takeaway}>
    <LinePlot
      label="People active in each period, for the first time and again"
      lines={[
        { name: "again", values: data.periods.map((row) => row.again), colour: "var(--state-active)" },
        { name: "first time", values: data.periods.map((row) => row.new), colour: "var(--state-new)" },
      ]}
      xs={data.dates.map((_, index) => index)}
      marks={dateMarks(data.dates)}
      format={number}
      {unfinished}
      height={180}
      room={120}
    />
  </Picture>

  <div class="grid gap-x-12 lg:grid-cols-2">
    <Picture title="By day of the week" name="weekdays" {takeaway}>
      {#snippet beside()}<Downloads
          name="weekdays"
          rows={data.weekdays.map((row) => ({
            weekday: DAYS[row.weekday - 1]!,
            mean_people: row.mean,
            days: row.days,
          }))}
        />{/snippet}
      <Bars
        label="Mean active people by day of the week"
        bars={data.weekdays.map((row) => ({ name: DAYS[row.weekday - 1]!, value: row.mean }))}
      />
      <p class="soft small">Mean of the complete days of the range.</p>
    </Picture>
    <Picture title="On how many of the last {data.stickiness.window} days" name="stickiness" {takeaway}>
      {#snippet beside()}<Downloads
          name="stickiness"
          rows={data.stickiness.distribution.map((people, index) => ({ days: index + 1, people }))}
        />{/snippet}
      <Bars
        label="People by the number of days they were active on"
        bars={data.stickiness.distribution.map((count, index) => ({
          name: String(index + 1),
          value: count,
          href: people(String(data.stickiness.window), data.to, { exactly: index + 1, of: "days" }),
          says: `${number(count)} people active on ${index + 1} of these days`,
        }))}
        width={520}
      />
      <p class="soft small">
        {number(data.stickiness.people)} people;
        {data.stickiness.share === null ? "–" : percent(data.stickiness.share)} of them come on an average day of
        these.
      </p>
    </Picture>
  </div>
{/if}
{#if activity.problem || !activity.data}<Waiting of={activity} />{/if}
