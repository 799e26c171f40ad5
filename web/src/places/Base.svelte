<script lang="ts">
  import { address } from "../lib/address.svelte";
  import { answer, api } from "../lib/api/client";
  import StateMark from "../lib/components/StateMark.svelte";
  import BaseCompared from "../lib/components/BaseCompared.svelte";
  import Strata from "../lib/components/Strata.svelte";
  import Waiting from "../lib/components/Waiting.svelte";
  import { addDays, day, number, percent, signed } from "../lib/format";
  import { Resource } from "../lib/resource.svelte";
  import { meaning, SEEN_STATES, type State } from "../lib/states";
  import { tray } from "../lib/tray.svelte";
  import { workspace } from "../lib/workspace.svelte";

  const RANGES = [
    ["90", "90 days"],
    ["180", "half a year"],
    ["365", "a year"],
    ["all", "everything"],
  ] as const;
  const range = $derived(address.get("range") ?? "365");
  const from = $derived.by(() => {
    const oldest = workspace.info?.data?.oldest_day ?? workspace.asOf;
    const start = range === "all" ? oldest : addDays(workspace.asOf, 1 - (Number(range) || 365));
    const first = start < oldest ? oldest : start;
    return first > workspace.asOf ? workspace.asOf : first;
  });

  const base = new Resource((signal) => {
    void workspace.policy;
    return answer(
      api.GET("/base", { params: { query: { ...workspace.dates, from, tray: tray.query } }, signal }),
    );
  });

  function people(state: State, date: string): string {
    const latest = workspace.info?.default_as_of;
    return `/people?state=${state}${date === latest ? "" : `&as_of=${date}`}`;
  }

  const seen = $derived(
    base.data ? SEEN_STATES.map((state) => base.data!.states.find((row) => row.state === state)!) : [],
  );
  const unseen = $derived(base.data?.states.find((row) => row.state === "unseen"));
</script>

<h1 class="sr-only">Base</h1>
{#if base.data}
  <p class="says mt-2 min-h-[3.7rem]" data-testid="takeaway">{base.data.takeaway}</p>

  <div class="mt-4 overflow-x-auto">
    <table class="figures max-w-[56rem]" aria-label="People in each state">
      <thead>
        <tr>
          <th>State</th>
          <th class="number">People</th>
          <th class="number">Share</th>
          <th class="number">{day(base.data.before)}</th>
          <th class="number">Change</th>
          <th class="pl-6!">Meaning</th>
        </tr>
      </thead>
      <tbody>
        {#each seen as row (row.state)}
          <tr>
            <td><StateMark state={row.state} /></td>
            <td class="number text-[1.05rem] font-semibold">
              <a href={people(row.state, base.data.to)} data-testid="count-{row.state}">{number(row.count)}</a
              >
            </td>
            <td class="number">{percent(row.share)}</td>
            <td class="number soft">{number(row.before)}</td>
            <td class="number">{signed(row.change)}</td>
            <td class="soft small pl-6! leading-6">
              {workspace.policy ? meaning(row.state, workspace.policy) : ""}
            </td>
          </tr>
        {/each}
      </tbody>
    </table>
  </div>
  {#if unseen && unseen.count > 0}
    <p class="soft small mt-1">
      {number(base.data.base)} people had been seen by then;
      <a href={people("unseen", base.data.to)}>{number(unseen.count)}</a> of them without any activity.
    </p>
  {/if}

  {#if base.data.audiences.length}<BaseCompared base={base.data} />{/if}

  <div class="mt-6 flex flex-wrap items-baseline gap-x-4 gap-y-1">
    <h2>The base over time</h2>
    <div class="flex gap-2" role="group" aria-label="Range">
      {#each RANGES as [value, name] (value)}
        <a
          class="quiet min-h-0! py-0.5! text-[0.9rem]"
          aria-current={range === value ? "true" : undefined}
          href={address.with({ range: value === "365" ? null : value })}>{name}</a
        >
      {/each}
    </div>
  </div>
  <Strata base={base.data} today={workspace.info!.today} {people} />
{/if}
{#if base.problem || !base.data}<Waiting problem={base.problem} retry={() => base.reload()} />{/if}
