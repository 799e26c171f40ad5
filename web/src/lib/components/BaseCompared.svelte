<script lang="ts">
  import { address } from "../address.svelte";
  import type { Schemas } from "../api/client";
  import { day, number, percent, signed } from "../format";
  import { SEEN_STATES, type State } from "../states";
  import { tray } from "../tray.svelte";
  import StateMark from "./StateMark.svelte";
  import TrayMark from "./TrayMark.svelte";

  /** The states of the tray's audiences beside those of everybody. */
  let { base }: { base: Schemas["Base"] } = $props();

  type Counts = Record<string, number>;
  type Row = { id: number | null; states: Counts; before: Counts };
  const everybody = $derived<Row>({
    id: null,
    states: Object.fromEntries(base.states.map((row) => [row.state, row.count])),
    before: Object.fromEntries(base.states.map((row) => [row.state, row.before])),
  });
  const rows = $derived<Row[]>([everybody, ...base.audiences]);

  function total(counts: Counts): number {
    return Object.values(counts).reduce((sum, count) => sum + count, 0);
  }

  function alive(counts: Counts): number {
    return (counts.new ?? 0) + (counts.active ?? 0);
  }

  function people(row: Row, state: State): string {
    return address.to("/people", { state, audience: row.id === null ? null : String(row.id) });
  }
</script>

<div class="mt-6 overflow-x-auto" data-testid="base-compared">
  <table class="figures" aria-label="Compared by the tray">
    <thead>
      <tr>
        <th>Compared</th>
        <th class="number">People</th>
        {#each SEEN_STATES as state (state)}<th class="number"><StateMark {state} /></th>{/each}
        <th class="number">New or active since {day(base.before)}</th>
      </tr>
    </thead>
    <tbody>
      {#each rows as row (row.id)}
        <tr>
          <td>
            {#if row.id === null}everybody{:else}<span class="inline-flex items-center gap-2"
                ><TrayMark position={tray.position(row.id)} /><a href={address.to(`/audiences/${row.id}`)}
                  >{tray.name(row.id)}</a
                ></span
              >{/if}
          </td>
          <td class="number font-semibold">{number(total(row.states))}</td>
          {#each SEEN_STATES as state (state)}
            {@const count = row.states[state] ?? 0}
            <td class="number">
              <a href={people(row, state)}>{number(count)}</a>
              <span class="soft small inline-block w-12"
                >{percent(total(row.states) ? count / total(row.states) : 0)}</span
              >
            </td>
          {/each}
          <td class="number">{signed(alive(row.states) - alive(row.before))}</td>
        </tr>
      {/each}
    </tbody>
  </table>
</div>
