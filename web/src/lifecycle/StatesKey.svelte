<script lang="ts">
  import Explained from "../help/Explained.svelte";
  import { address } from "../lib/address.svelte";
  import type { Schemas } from "../lib/api/client";
  import { day, number, percent, signed, ratio as formatted } from "../lib/format";
  import { drawn, drawnAs, switched } from "./drawn";
  import StateMark from "./StateMark.svelte";
  import { stateName, type State } from "./states";

  /** The states with their people, beside the picture: its legend, and what switches them on and off in it. */
  let { data, people }: { data: Schemas["StatesPicture"]; people: (state: State, date: string) => string } =
    $props();

  // In the order they lie on each other.
  const rows = $derived(
    ["never_active", "churned", "dormant", "new", "active"].map((name) =>
      data.states.find((row) => row.state === name)!,
    ),
  );
  const begun = $derived(data.states.some((row) => row.change === null));
  const shares = $derived(drawnAs() === "shares");
</script>

<div data-testid="states-key">
  <div class="mt-1.5 flex items-baseline justify-between">
    <span class="soft small">{day(data.to)}</span>
    <span class="flex gap-2" role="group" aria-label="Chart type">
      {#each ["counts", "shares"] as const as form (form)}
        <button
          class="small cursor-pointer px-1 {drawnAs() === form ? 'font-semibold' : 'soft underline'}"
          aria-pressed={drawnAs() === form}
          onclick={() =>
            address.go(address.with({ drawn: form === "shares" ? "shares" : null }), { replace: true })}
          >{form}</button
        >
      {/each}
    </span>
  </div>
  <ul class="mt-1">
    {#each rows as row (row.state)}
      {@const on = drawn().includes(row.state)}
      <li class="flex items-baseline gap-2 border-b border-(--rule) py-1.5">
        <button
          class="flex cursor-pointer items-center gap-2 {on ? '' : 'soft'}"
          aria-pressed={on}
          aria-label="Show {stateName(row.state)} in the chart"
          onclick={() => address.go(address.with({ without: switched(row.state) }), { replace: true })}
        >
          <StateMark state={row.state} hollow={!on} />
        </button>
        <a class="ml-auto font-semibold tabular-nums" href={people(row.state, data.to)}
          >{shares ? percent(row.share) : number(row.count)}</a
        >
        {#if row.change !== null}
          <span class="soft small w-14 text-right tabular-nums" title="since {day(data.before)}"
            >{signed(row.change)}</span
          >
        {/if}
      </li>
    {/each}
    <li class="flex justify-between py-1.5">
      <span class="soft">all people</span><span class="tabular-nums {begun ? '' : 'mr-16'}"
        >{number(data.people)}</span
      >
    </li>
  </ul>
  {#if begun}<p class="soft small">No change shown: data starts on {day(data.before)}.</p>{/if}
  {#if data.gain_loss}
    {@const { gained, lapsed, ratio } = data.gain_loss}
    <p class="mt-2">
      Gain/loss ratio <Explained term="gain_loss_ratio" />
      <strong class="tabular-nums">{ratio === null ? "–" : formatted(ratio)}</strong>
    </p>
    <p class="soft small">
      (joined + reactivated) ÷ lapsed = {number(gained)} ÷ {number(lapsed)}, over the complete {data.step}s;
      below 1 the active base shrinks.
    </p>
  {/if}
</div>
