<script lang="ts">
  import { Asked } from "../lib/asked.svelte";
  import { addDays, day, number, percent } from "../lib/format";
  import { peopleOf } from "../lib/groups";
  import { dateMarks } from "./lifecycle";
  import { workspace } from "../lib/workspace.svelte";
  import Downloads from "../ui/Downloads.svelte";
  import LinePlot from "../charts/LinePlot.svelte";
  import Picture from "../charts/Picture.svelte";
  import Waiting from "../ui/Waiting.svelte";

  /** At each past week's end: who was newly called churned, and how many of them came back. */
  let { dormantAfter, churnedAfter }: { dormantAfter: number; churnedAfter: number } = $props();

  const WITHIN = ["30", "60", "90"] as const;
  const SHOWN = 10;
  let all = $state(false);
  const backtest = new Asked("backtest", () => ({
    active_within: dormantAfter,
    churned_after: churnedAfter,
    weeks: 52,
  }));
  const found = $derived(backtest.data?.picture);
  const rows = $derived([...(found?.rows ?? [])].reverse());
  const inForce = $derived(
    churnedAfter === workspace.policy?.churned_after && dormantAfter === workspace.policy?.active_within,
  );

  function share(back: number | null | undefined, of: number): number | null {
    return back === null || back === undefined || of === 0 ? null : back / of;
  }

  function people(date: string): string {
    const rules = inForce
      ? workspace.policyClause
      : { policy: { rules: { ...tried(), active_within: dormantAfter, churned_after: churnedAfter } } };
    const clauses = [
      { lifecycle: { is: ["churned"], on: date, ...rules } },
      { not: { lifecycle: { is: ["churned"], on: addDays(date, -7), ...rules } } },
    ];
    return peopleOf(clauses);
  }

  function tried(): object {
    const { activity, new_for, population, channel } = workspace.policy!;
    return { activity, new_for, population, channel };
  }
</script>

{#if backtest.data && found && !backtest.problem}
  {@const data = found}
  {@const takeaway = backtest.data.finding}
  <Picture title="Tested on the past: churned at {data.churned_after} days" name="backtest" {takeaway}>
    {#snippet beside()}
      <Downloads
        name="backtest"
        rows={data.rows.map((row) => ({
          week_to: row.date,
          churned: row.churned,
          newly_churned: row.newly,
          ...Object.fromEntries(
            WITHIN.map((within) => [`newly_back_within_${within}`, row.newly_back[within] ?? null]),
          ),
          ...Object.fromEntries(
            WITHIN.map((within) => [`all_back_within_${within}`, row.back[within] ?? null]),
          ),
        }))}
      />
    {/snippet}
    <p class="mt-1">{takeaway}</p>
    <LinePlot
      label="Share of those newly called churned in each week who came back"
      lines={[
        {
          name: "within 90 days",
          values: data.rows.map((row) => share(row.newly_back["90"], row.newly)),
          colour: "var(--state-active)",
        },
        {
          name: "within 30 days",
          values: data.rows.map((row) => share(row.newly_back["30"], row.newly)),
          colour: "var(--tray-4)",
        },
      ]}
      xs={data.rows.map((_, index) => index)}
      marks={dateMarks(data.rows.map((row) => row.date))}
      format={(value) => `${Math.round(value * 100)}%`}
      height={190}
      room={160}
    />
  </Picture>
  <div class="mt-1 overflow-x-auto">
    <table class="figures w-auto!" aria-label="Backtest" data-testid="backtest">
      <thead>
        <tr>
          <th>Week to</th><th class="number">Churned</th><th class="number pl-6!">Newly so</th>
          {#each WITHIN as within (within)}<th class="number pl-6!">back within {within} days</th>{/each}
        </tr>
      </thead>
      <tbody>
        {#each all ? rows : rows.slice(0, SHOWN) as row (row.date)}
          <tr>
            <td>{day(row.date)}</td>
            <td class="number soft">{number(row.churned)}</td>
            <td class="number font-semibold"><a href={people(row.date)}>{number(row.newly)}</a></td>
            {#each WITHIN as within (within)}
              {@const back = row.newly_back[within]}
              <td class="number">
                {#if back === null || back === undefined}<span class="soft">not yet</span>
                {:else}{number(back)}
                  <span class="soft small inline-block w-12">{percent(share(back, row.newly) ?? 0)}</span
                  >{/if}
              </td>
            {/each}
          </tr>
        {/each}
      </tbody>
    </table>
  </div>
  {#if rows.length > SHOWN}<button class="quiet mt-2" onclick={() => (all = !all)}
      >{all ? "Only the last" : `Show all ${rows.length}`}</button
    >{/if}
{:else}
  <Waiting of={backtest} />
{/if}
