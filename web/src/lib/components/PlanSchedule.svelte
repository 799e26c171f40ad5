<script lang="ts">
  import type { Rules } from "../handover";
  import PhraseSelect from "./PhraseSelect.svelte";

  /** When a plan is carried out by itself. */
  let { schedule = $bindable() }: { schedule: Rules["schedule"] } = $props();

  const UNITS = [
    ["", "by hand only"],
    ["day", "every day"],
    ["week", "every week"],
    ["month", "every month"],
  ] as const;
  const WEEK = ["Monday", "Tuesday", "Wednesday", "Thursday", "Friday", "Saturday", "Sunday"].map(
    (name, index) => [String(index + 1), `on ${name}`] as const,
  );
  const MONTH = Array.from({ length: 31 }, (_, index) => [String(index + 1), `on day ${index + 1}`] as const);

  function every(unit: string) {
    const at = schedule?.at ?? "07:00";
    schedule = unit ? { every: unit, at, ...(unit === "day" ? {} : { on: 1 }) } : null;
  }
</script>

<!-- prettier-ignore -->
<span><PhraseSelect label="Schedule" ink="when" value={schedule?.every} options={UNITS} choose={every} />{#if schedule}{#if schedule.every !== "day"}, <PhraseSelect
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
