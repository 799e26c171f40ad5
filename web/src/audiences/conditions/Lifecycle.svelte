<script lang="ts" module>
  import type { Condition, PhraseProps } from "./condition";

  export const condition: Condition = {
    keys: ["lifecycle"],
    phrases: { states: "State" },
    offers: [
      {
        about: "state",
        text: "who are in a state …",
        first: true,
        begin: () => ({ lifecycle: { is: ["dormant"] } }),
      },
      {
        about: "state",
        text: "who entered a state …",
        begin: () => ({ lifecycle: { is: ["dormant"], entered_last_days: 7 } }),
      },
    ],
  };
</script>

<script lang="ts">
  import StateMark from "../../lifecycle/StateMark.svelte";
  import type { Lifecycle } from "../definition";
  import { SEEN_STATES, type State } from "../../lifecycle/states";
  import { workspace } from "../../lib/workspace.svelte";
  import Whole from "../editor/Whole.svelte";

  /** Which of the states, and when. At least one state stays chosen. */
  let { piece: lifecycle, put: change, close }: PhraseProps<Lifecycle> = $props();

  const ALL: State[] = [...SEEN_STATES, "unseen"];
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
    const returned = lifecycle.returned && next !== "for_at_least_days" ? { returned: true } : {};
    change({
      is: lifecycle.is,
      ...times[next],
      ...returned,
      ...(lifecycle.policy ? { policy: lifecycle.policy } : {}),
    });
  }

  const named = $derived(lifecycle.policy && "id" in lifecycle.policy ? lifecycle.policy : null);

  function mark(returned: boolean) {
    const rest = { ...lifecycle };
    delete rest.returned;
    change(returned ? { ...rest, returned } : rest);
  }

  function asPolicy(id: number | null, version?: number) {
    const rest = { ...lifecycle };
    delete rest.policy;
    change(id === null ? rest : { ...rest, policy: version ? { id, version } : { id } });
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
    <input
      type="date"
      aria-label="Date"
      value={lifecycle.on}
      onchange={(event) =>
        event.currentTarget.value && change({ ...lifecycle, on: event.currentTarget.value })}
    />
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
    <summary class="soft small cursor-pointer">coming from (none ticked: any)</summary>
    {#each ALL.filter((state) => !lifecycle.is.includes(state)) as state (state)}
      <label class="flex items-center gap-2 py-0.5">
        <input
          type="checkbox"
          aria-label="from {state}"
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
      checked={lifecycle.returned ?? false}
      onchange={(event) => mark(event.currentTarget.checked)}
    />
    and had just come back after being quiet
  </label>
{/if}
<label class="small mt-2 flex items-center gap-2">
  as
  <select
    aria-label="Policy"
    value={named ? String(named.id) : lifecycle.policy ? "rules" : ""}
    onchange={(event) => asPolicy(Number(event.currentTarget.value) || null)}
  >
    <option value="">the policy in force</option>
    {#if lifecycle.policy && !named}<option value="rules">other rules, written out</option>{/if}
    {#each workspace.policies.filter((row) => row.id !== null) as row (row.id)}
      <option value={String(row.id)}>{row.name}</option>
    {/each}
  </select>
  {#if named}
    <select
      aria-label="Version"
      value={String(named.version ?? "")}
      onchange={(event) => asPolicy(named.id, Number(event.currentTarget.value) || undefined)}
    >
      <option value="">its newest version</option>
      {#each Array.from({ length: workspace.policies.find((row) => row.id === named.id)?.version ?? 0 }, (_, index) => index + 1) as version (version)}
        <option value={String(version)}>always version {version}</option>
      {/each}
    </select>
  {/if}
</label>
