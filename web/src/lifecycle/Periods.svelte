<script lang="ts">
  import { address } from "../lib/address.svelte";
  import type { Schemas } from "../lib/api/client";
  import { addDays, day, number, signed } from "../lib/format";
  import { peopleOf } from "../lib/groups";
  import { moved, PARTS, type Part } from "./lifecycle";
  import Downloads from "../ui/Downloads.svelte";

  /** What happened in each period, the newest first. */
  let { base }: { base: Schemas["StatesPicture"] } = $props();

  const SHOWN = 12;
  const NAMES: Part[] = ["joined", "returned", "lapsed", "lost", "kept", "passed_through"];
  let all = $state(false);
  const periods = $derived([...base.periods].reverse());
  const shown = $derived(all ? periods.slice(0, 400) : periods.slice(0, SHOWN));

  function people(period: (typeof periods)[number], name: Part): string {
    const before = addDays(period.from, -1);
    return peopleOf([moved(PARTS[name].before, before, PARTS[name].after, period.to)], period.to);
  }

  const rows = $derived(
    base.periods.map(({ from, to, complete, net, replacement_ratio, ...parts }) => ({
      from,
      to,
      complete,
      ...Object.fromEntries(NAMES.map((name) => [name, parts[name]])),
      net,
      replacement_ratio,
    })),
  );
</script>

<section class="mt-7">
  <div class="flex flex-wrap items-baseline gap-x-4">
    <h2>What moved, {base.step} by {base.step}</h2>
    <Downloads name="movements" {rows} />
  </div>
  <div class="mt-1 overflow-x-auto">
    <table class="figures" aria-label="What moved in each period">
      <thead>
        <tr>
          <th>{base.step === "day" ? "Day" : `${base.step === "week" ? "Week" : "Month"} to`}</th>
          {#each NAMES as name (name)}<th class="number">{name.replace("_", " ")}</th>{/each}
          <th class="number">net</th>
          <th class="number">ratio</th>
        </tr>
      </thead>
      <tbody>
        {#each shown as period (period.to)}
          <tr class={period.complete ? "" : "unfinished"}>
            <td>
              <a
                href={address.with({ between: addDays(period.from, -1), and: period.to })}
                title="From state to state in this period">{day(period.to)}</a
              >{#if !period.complete}<span class="soft small ml-2">incomplete</span>{/if}
            </td>
            {#each NAMES as name (name)}
              <td class="number"
                >{#if period[name]}<a href={people(period, name)}>{number(period[name])}</a>{:else}<span
                    class="soft">0</span
                  >{/if}</td
              >
            {/each}
            <td class="number font-semibold">{signed(period.net)}</td>
            <td
              class="number {period.replacement_ratio !== null && period.replacement_ratio < 1
                ? 'font-semibold'
                : 'soft'}"
            >
              {period.replacement_ratio === null
                ? "–"
                : period.replacement_ratio.toFixed(
                    2,
                  )}{#if period.replacement_ratio !== null && period.replacement_ratio < 1}<span
                  class="ml-1"
                  title="below 1">▾</span
                >{/if}
            </td>
          </tr>
        {/each}
      </tbody>
    </table>
  </div>
  {#if periods.length > SHOWN}
    <button class="quiet mt-2" onclick={() => (all = !all)}
      >{all
        ? "Only the last"
        : periods.length > 400
          ? "Show the last 400"
          : `Show all ${number(periods.length)}`}</button
    >
  {/if}
</section>
