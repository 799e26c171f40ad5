<script lang="ts" module>
  import { SEEN_STATES, stateName, type State } from "../../lifecycle/states";
  import type { Condition, PhraseProps } from "./condition";

  export const condition: Condition = {
    keys: ["lifecycle"],
    phrases: { states: "State" },
    offers: [
      {
        about: "state",
        text: "who are in a state …",
        first: true,
        ask: "State",
        options: () =>
          [...SEEN_STATES, "never_active" as const].map((state) => ({
            value: state,
            text: stateName(state),
          })),
        begin: (state) => ({ lifecycle: { is: [state as State] } }),
      },
      {
        about: "state",
        text: "who entered a state …",
        ask: "State",
        options: () =>
          [...SEEN_STATES, "never_active" as const].map((state) => ({
            value: state,
            text: stateName(state),
          })),
        begin: (state) => ({ lifecycle: { is: [state as State], entered_last_days: 7 } }),
      },
    ],
  };
</script>

<script lang="ts">
  import DateField from "../../ui/DateField.svelte";
  import StateMark from "../../lifecycle/StateMark.svelte";
  import type { Lifecycle } from "../definition";
  import { workspace } from "../../lib/workspace.svelte";
  import Whole from "../editor/Whole.svelte";

  /** Which of the states, and when. At least one state stays chosen. */
  let { piece: lifecycle, put: change, close }: PhraseProps<Lifecycle> = $props();

  const ALL: State[] = [...SEEN_STATES, "never_active"];
  const TIMES = [
    ["now", "now"],
    ["on", "on a date"],
    ["entered_last_days", "entered in the last … days"],
    ["for_at_least_days", "for at least … days"],
  ] as const;
  type Time = (typeof TIMES)[number][0];
  const time = $derived<Time>(
    lifecycle.on
      ? "on"
      : lifecycle.entered_last_days
        ? "entered_last_days"
        : lifecycle.for_at_least_days
          ? "for_at_least_days"
          : "now",
  );

  function toggled(list: State[], state: State, on: boolean): State[] {
    return ALL.filter((other) => (other === state ? on : list.includes(other)));
  }

  function choose(next: Time) {
    const times: Record<Time, Partial<Lifecycle>> = {
      now: {},
      on: { on: workspace.asOf },
      entered_last_days: { entered_last_days: 7 },
      for_at_least_days: { for_at_least_days: 30 },
    };
    const reactivated = lifecycle.reactivated && next !== "for_at_least_days" ? { reactivated: true } : {};
    change({
      is: lifecycle.is,
      ...times[next],
      ...reactivated,
      ...(lifecycle.rule_set ? { rule_set: lifecycle.rule_set } : {}),
    });
  }

  const named = $derived(lifecycle.rule_set && "id" in lifecycle.rule_set ? lifecycle.rule_set : null);

  function mark(reactivated: boolean) {
    const rest = { ...lifecycle };
    delete rest.reactivated;
    change(reactivated ? { ...rest, reactivated } : rest);
  }

  function asRuleSet(id: number | null, version?: number) {
    const rest = { ...lifecycle };
    delete rest.rule_set;
    change(id === null ? rest : { ...rest, rule_set: version ? { id, version } : { id } });
  }

  function from(next: State[]) {
    const rest = { ...lifecycle };
    delete rest.from;
    change(next.length ? { ...rest, from: next } : rest);
  }
</script>

{#each ALL as state (state)}
  <label class="flex items-center gap-2 py-0.5">
    <input
      type="checkbox"
      checked={lifecycle.is.includes(state)}
      disabled={lifecycle.is.length === 1 && lifecycle.is[0] === state}
      onchange={(event) =>
        change({ ...lifecycle, is: toggled(lifecycle.is, state, event.currentTarget.checked) })}
    />
    <StateMark {state} />
  </label>
{/each}
<div class="mt-2 flex flex-wrap items-center gap-2">
  <select aria-label="When" value={time} onchange={(event) => choose(event.currentTarget.value as Time)}>
    {#each TIMES as [value, name] (value)}<option {value}>{name}</option>{/each}
  </select>
  {#if lifecycle.on}
    <DateField label="Date" value={lifecycle.on} change={(on) => change({ ...lifecycle, on })} />
  {:else if time === "entered_last_days" || time === "for_at_least_days"}
    <Whole
      label="Days"
      value={lifecycle[time]!}
      change={(days) => change({ ...lifecycle, [time]: days })}
      {close}
    />
  {/if}
</div>
{#if time === "now" || lifecycle.entered_last_days}
  <details class="mt-2" open={Boolean(lifecycle.entered_last_days || lifecycle.from)}>
    <summary class="soft small cursor-pointer">Previous state (leave empty for any)</summary>
    {#each ALL.filter((state) => !lifecycle.is.includes(state)) as state (state)}
      <label class="flex items-center gap-2 py-0.5">
        <input
          type="checkbox"
          aria-label="from {stateName(state)}"
          checked={lifecycle.from?.includes(state) ?? false}
          onchange={(event) => from(toggled(lifecycle.from ?? [], state, event.currentTarget.checked))}
        />
        <StateMark {state} />
      </label>
    {/each}
  </details>
{/if}
{#if time !== "for_at_least_days"}
  <label class="small mt-2 flex items-center gap-2">
    <input
      type="checkbox"
      checked={lifecycle.reactivated ?? false}
      onchange={(event) => mark(event.currentTarget.checked)}
    />
    and recently reactivated
  </label>
{/if}
<label class="small mt-2 flex items-center gap-2">
  Lifecycle rules
  <select
    aria-label="Rules"
    value={named ? String(named.id) : lifecycle.rule_set ? "rules" : ""}
    onchange={(event) => asRuleSet(Number(event.currentTarget.value) || null)}
  >
    <option value="">the default rule set</option>
    {#if lifecycle.rule_set && !named}<option value="rules">custom rules</option>{/if}
    {#each workspace.ruleSets.filter((row) => row.id !== null) as row (row.id)}
      <option value={String(row.id)}>{row.name}</option>
    {/each}
  </select>
  {#if named}
    <select
      aria-label="Version"
      value={String(named.version ?? "")}
      onchange={(event) => asRuleSet(named.id, Number(event.currentTarget.value) || undefined)}
    >
      <option value="">latest version</option>
      {#each Array.from({ length: workspace.ruleSets.find((row) => row.id === named.id)?.version ?? 0 }, (_, index) => index + 1) as version (version)}
        <option value={String(version)}>always version {version}</option>
      {/each}
    </select>
  {/if}
</label>
