<script lang="ts">
  import DateField from "../ui/DateField.svelte";
  import type { Rules } from "./exports";
  import PhraseSelect from "../ui/PhraseSelect.svelte";

  /** When an export is carried out, or a page sent, by itself. */
  let {
    schedule = $bindable(),
    refreshes = true,
  }: {
    schedule: Rules["schedule"] | undefined;
    /** Whether it may be carried out after refreshes. */
    refreshes?: boolean;
  } = $props();

  const ALL = [
    ["", "manually"],
    ["once", "once"],
    ["day", "every day"],
    ["week", "every week"],
    ["month", "every month"],
    ["refresh", "when the exported people change"],
  ] as const;
  const units = $derived(refreshes ? ALL : ALL.filter(([unit]) => unit !== "refresh"));
  const DAY = 86_400_000;
  const WEEK = ["Monday", "Tuesday", "Wednesday", "Thursday", "Friday", "Saturday", "Sunday"].map(
    (name, index) => [String(index + 1), `on ${name}`] as const,
  );
  const MONTH = Array.from({ length: 31 }, (_, index) => [String(index + 1), `on day ${index + 1}`] as const);

  function every(unit: string) {
    const at = schedule?.at ?? "07:00";
    const on = { once: tomorrow(), week: 1, month: 1 }[unit];
    if (unit === "refresh") schedule = { every: unit };
    else schedule = unit ? { every: unit, at, ...(on === undefined ? {} : { on }) } : null;
  }

  function tomorrow(): string {
    return new Date(Date.now() + DAY).toISOString().slice(0, 10);
  }
</script>

<!-- prettier-ignore -->
<span><PhraseSelect label="Schedule" ink="when" value={schedule?.every} options={units} choose={every} />{#if schedule?.at}{#if schedule.every === "once"} on <DateField
      phrase
      label="Date"
      value={String(schedule.on)}
      change={(on) => (schedule!.on = on)}
    />{:else if schedule.every !== "day"}, <PhraseSelect
      label={schedule.every === "week" ? "Day of the week" : "Day of the month"}
      ink="when"
      value={schedule.on}
      options={schedule.every === "week" ? WEEK : MONTH}
      choose={(on) => (schedule!.on = Number(on))}
    />{/if}, at <input
    class="phrase ink-when"
    type="time"
    required
    aria-label="Time of day"
    value={schedule.at}
    onchange={(event) => (schedule!.at = event.currentTarget.value.slice(0, 5))}
  />{/if}.</span>
