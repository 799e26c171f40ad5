<script lang="ts">
  import { address } from "../lib/address.svelte";
  import type { Schemas } from "../lib/api/client";
  import { Asked } from "../lib/asked.svelte";
  import { number, percent } from "../lib/format";
  import { peopleOf } from "../lib/groups";
  import { dateMarks } from "./lifecycle";
  import { range } from "../lib/range.svelte";
  import { SEEN_STATES } from "./states";
  import { tray } from "../audiences/tray.svelte";
  import { workspace } from "../lib/workspace.svelte";
  import AsAudience from "../audiences/AsAudience.svelte";
  import Downloads from "../ui/Downloads.svelte";
  import LinePlot from "../charts/LinePlot.svelte";
  import Picture from "../charts/Picture.svelte";
  import SplitBy, { by } from "../analyses/SplitBy.svelte";
  import StateMark from "./StateMark.svelte";
  import TrayMark from "../audiences/TrayMark.svelte";
  import Waiting from "../ui/Waiting.svelte";

  /** Groups of people beside each other: the audiences of the tray, or the values of something they are split by. */
  let { takeaway }: { takeaway: string } = $props();

  type Row = Schemas["StatesByGroupPicture"]["rows"][number];
  const LINES = 6;
  const split = $derived(address.get("groups") ?? "");
  const asked = $derived(by(split));
  const groups = new Asked("states-by-group", () =>
    asked || tray.active.length
      ? { from: range.from, step: range.step, ...(asked ? { by: asked } : { audiences: tray.active }) }
      : null,
  );
  const found = $derived(groups.data?.picture);

  function name(row: Row): string {
    if (row.id !== null) return tray.name(row.id);
    return row.kind === "other"
      ? `${number(Number(row.value))} other values`
      : row.kind === "not_set"
        ? "not set"
        : (row.value ?? "");
  }

  function colour(row: Row, index: number): string {
    return `var(--tray-${row.id !== null ? tray.position(row.id) : index % LINES})`;
  }

  const rows = $derived(
    found?.rows.map((row) => ({
      group: name(row),
      people: row.people,
      ...Object.fromEntries(SEEN_STATES.map((state) => [state, row.states[state] ?? 0])),
      joined: row.parts.joined ?? 0,
      returned: row.parts.returned ?? 0,
      lapsed: row.parts.lapsed ?? 0,
      lost: row.parts.lost ?? 0,
      replacement_ratio: row.ratio,
    })) ?? [],
  );
</script>

<section class="mt-7">
  <div class="flex flex-wrap items-center gap-x-4 gap-y-2">
    <h2>Side by side</h2>
    <label class="small flex items-center gap-2">
      by
      <SplitBy
        value={split}
        none="the tray"
        choose={(value) => address.go(address.with({ groups: value || null }), { replace: true })}
      />
    </label>
    {#if rows.length}<Downloads name="groups" {rows} />{/if}
  </div>
  {#if found && !groups.problem}
    {@const data = found}
    <div class="mt-1 overflow-x-auto">
      <table class="figures" aria-label="Groups side by side" data-testid="groups">
        <thead>
          <tr>
            <th>Group</th>
            <th class="number">People</th>
            {#each SEEN_STATES as state (state)}<th class="number"><StateMark {state} /></th>{/each}
            <th class="number">joined</th>
            <th class="number">returned</th>
            <th class="number">lapsed</th>
            <th class="number">ratio</th>
            <th><span class="sr-only">Keep</span></th>
          </tr>
        </thead>
        <tbody>
          {#each data.rows as row, index (`${row.kind}${row.id}${row.value}`)}
            <tr>
              <td class={row.kind === "other" || row.kind === "not_set" ? "soft" : ""}>
                <span class="inline-flex items-center gap-2">
                  {#if row.id !== null}<TrayMark position={tray.position(row.id)} />
                  {:else if index < LINES}<svg width="12" height="3" aria-hidden="true"
                      ><rect width="12" height="3" fill={colour(row, index)} /></svg
                    >
                  {/if}{name(row)}
                </span>
              </td>
              <td class="number font-semibold"
                ><a href={peopleOf([row.people_in])}>{number(row.people)}</a></td
              >
              {#each SEEN_STATES as state (state)}
                <td class="number">
                  <a
                    href={peopleOf([
                      row.people_in,
                      { lifecycle: { is: [state], ...workspace.policyClause } },
                    ])}>{number(row.states[state] ?? 0)}</a
                  >
                  <span class="soft small inline-block w-12"
                    >{percent(row.people ? (row.states[state] ?? 0) / row.people : 0)}</span
                  >
                </td>
              {/each}
              <td class="number">{number(row.parts.joined ?? 0)}</td>
              <td class="number">{number(row.parts.returned ?? 0)}</td>
              <td class="number">{number(row.parts.lapsed ?? 0)}</td>
              <td class="number font-semibold">{row.ratio === null ? "–" : row.ratio.toFixed(2)}</td>
              <td><AsAudience name={name(row)} clauses={[row.people_in]} /></td>
            </tr>
          {/each}
        </tbody>
      </table>
    </div>
    {#if range.step !== "day"}
      <Picture title="Replacement ratio, group by group" name="replacement-ratio-groups" {takeaway}>
        <LinePlot
          label="Replacement ratio of each group"
          lines={data.rows
            .slice(0, LINES)
            .map((row, index) => ({ name: name(row), values: row.ratios, colour: colour(row, index) }))}
          xs={data.periods.map((_, index) => index)}
          marks={dateMarks(data.periods.map((period) => period.to))}
          format={(value) => value.toFixed(2)}
          reference={{ at: 1, text: "" }}
          log
          room={210}
        />
      </Picture>
    {/if}
    <p class="soft small mt-1">
      Joined, returned and lapsed over the complete periods of the range, period by period, added up.
    </p>
  {:else if groups.problem}
    <Waiting of={groups} />
  {:else if !asked && !tray.query}
    <p class="soft small mt-1">Choose what to split by, or compare by the audiences of the tray.</p>
  {:else}
    <Waiting of={groups} />
  {/if}
</section>
