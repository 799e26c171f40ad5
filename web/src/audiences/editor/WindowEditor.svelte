<script lang="ts">
  import DateField from "../../ui/DateField.svelte";
  import type { Window } from "../definition";
  import { addDays } from "../../lib/format";
  import { workspace } from "../../lib/workspace.svelte";
  import Checks from "./Checks.svelte";
  import Whole from "./Whole.svelte";

  /** The stretch of time a condition looks at. */
  let { window, change, close }: { window: Window; change: (window: Window) => void; close: () => void } =
    $props();

  const NAMES = [
    ["last_days", "in the last … days"],
    ["last_hours", "in the last … hours"],
    ["between", "between two dates"],
    ["from", "on or after a date"],
    ["to", "on or before a date"],
    ["first_days", "within … days of being first seen"],
    ["ever", "at any time"],
  ] as const;
  const WEEKDAYS: [string, string][] = [
    "Mondays",
    "Tuesdays",
    "Wednesdays",
    "Thursdays",
    "Fridays",
    "Saturdays",
    "Sundays",
  ].map((name, index) => [String(index + 1), name]);
  type Kind = (typeof NAMES)[number][0];
  const kind = $derived<Kind>(
    window.last_days
      ? "last_days"
      : window.last_hours
        ? "last_hours"
        : window.first_days || window.after_first_days
          ? "first_days"
          : window.from && window.to
            ? "between"
            : window.from
              ? "from"
              : window.to
                ? "to"
                : "ever",
  );
  const clock = $derived({
    ...(window.weekdays ? { weekdays: window.weekdays } : {}),
    ...(window.hours ? { hours: window.hours } : {}),
  });

  function base(next: Window) {
    change({ ...next, ...clock });
  }

  function choose(next: Kind) {
    const to = window.to ?? workspace.asOf;
    const from = window.from ?? addDays(to, -29);
    const bases: Record<Kind, Window> = {
      last_days: { last_days: 30 },
      last_hours: { last_hours: 24 },
      first_days: { first_days: 7 },
      between: { from, to: to < from ? from : to },
      from: { from },
      to: { to },
      ever: { ever: true },
    };
    base(bases[next]);
  }

  /** Days since being first seen, of which the first may be left out; there is always one that is not. */
  function known(days: number | undefined, without: number | undefined) {
    const most = days && without ? Math.max(days, without + 1) : days;
    base({ ...(most ? { first_days: most } : {}), ...(without ? { after_first_days: without } : {}) });
  }

  function bound(name: "from" | "to", value: string) {
    if (!value) return;
    const next = { ...window, [name]: value };
    change(next.from && next.to && next.from > next.to ? { ...next, from: value, to: value } : next);
  }

  function timed(changes: Pick<Window, "weekdays" | "hours">) {
    const next = { ...window, ...changes };
    if (!next.weekdays?.length) delete next.weekdays;
    if (!next.hours) delete next.hours;
    change(next);
  }
</script>

<div class="flex max-w-80 flex-col gap-2">
  <select aria-label="When" value={kind} onchange={(event) => choose(event.currentTarget.value as Kind)}>
    {#each NAMES as [value, name] (value)}<option {value}>{name}</option>{/each}
  </select>
  {#if window.last_days}
    <label class="flex items-center gap-2">
      in the last <Whole
        label="Days"
        value={window.last_days}
        change={(days) => base({ last_days: days })}
        {close}
      /> days
    </label>
  {:else if window.last_hours}
    <label class="flex items-center gap-2">
      in the last <Whole
        label="Hours"
        max={876_000}
        value={window.last_hours}
        change={(hours) => base({ last_hours: hours })}
        {close}
      /> hours
    </label>
  {:else if kind === "first_days"}
    {#if window.first_days}
      <label class="flex items-center gap-2">
        within <Whole
          label="Days"
          value={window.first_days}
          change={(days) => known(days, window.after_first_days)}
          {close}
        /> days of being first seen
      </label>
    {/if}
    <label class="flex items-center gap-2">
      <input
        type="checkbox"
        checked={Boolean(window.after_first_days)}
        onchange={(event) => known(window.first_days ?? 8, event.currentTarget.checked ? 1 : undefined)}
      />
      but not in the first
      {#if window.after_first_days}<Whole
          label="Days excluded"
          value={window.after_first_days}
          change={(days) => known(window.first_days, days)}
          {close}
        />{/if} of these
    </label>
  {/if}
  {#if window.from}
    <label class="flex items-center gap-2">
      from <DateField label="from" value={window.from} change={(date) => bound("from", date)} />
    </label>
  {/if}
  {#if window.to}
    <label class="flex items-center gap-2">
      to <DateField label="to" value={window.to} change={(date) => bound("to", date)} />
    </label>
  {/if}
  <details open={Boolean(window.weekdays || window.hours)}>
    <summary class="soft small cursor-pointer">limit to weekdays or hours</summary>
    <div class="mt-1 grid grid-cols-2">
      <Checks
        none
        options={WEEKDAYS}
        chosen={(window.weekdays ?? []).map(String)}
        change={(chosen) => timed({ weekdays: chosen.map(Number) })}
      />
    </div>
    <div class="mt-1 flex items-center gap-2">
      <label class="flex items-center gap-2">
        <input
          type="checkbox"
          checked={Boolean(window.hours)}
          onchange={(event) => timed({ hours: event.currentTarget.checked ? [8, 18] : undefined })}
        /> from
      </label>
      {#if window.hours}
        <Whole
          label="From hour"
          min={0}
          max={23}
          value={window.hours[0]}
          change={(hour) => timed({ hours: [hour, window.hours![1]] })}
        />
        to
        <Whole
          label="To hour"
          min={1}
          max={24}
          value={window.hours[1]}
          change={(hour) => timed({ hours: [window.hours![0], hour] })}
        />
      {:else}some hour of the day{/if}
    </div>
  </details>
</div>
