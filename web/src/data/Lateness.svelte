<script lang="ts">
  import { answer, api } from "../lib/api/client";
  import { duration, moment, number, percent } from "../lib/format";
  import { Resource } from "../lib/resource.svelte";
  import { workspace } from "../lib/workspace.svelte";
  import Waiting from "../ui/Waiting.svelte";
  import Wide from "../ui/Wide.svelte";

  /** How late events came, per source, and which sources have gone silent. */
  const lateness = new Resource((signal) =>
    answer(api.GET("/live-events/lateness", { params: { query: { as_of: workspace.asOf } }, signal })),
  );
  const WIDTH = 320;
  // Later is darker; the labels stand in the table below the picture, so nothing depends on the shade alone.
  const SHADES = [0.12, 0.3, 0.5, 0.75, 1];

  function pieces(within: number[], events: number) {
    let at = 0;
    return within.map((count) => {
      const piece = { x: at, width: events ? (WIDTH * count) / events : 0 };
      at += piece.width;
      return piece;
    });
  }
</script>

{#if lateness.data}
  {@const data = lateness.data}
  <p class="says mt-2 max-w-none" data-testid="lateness-finding">{data.finding}</p>
  {#if data.lateness.length}
    <Wide label="Event delay by source">
      <table class="figures" aria-label="Share of events received within a time, per source">
        <thead>
          <tr>
            <th>Source</th><th>Delay</th>
            {#each data.classes as label (label)}<th class="number"
                >{label === "later" ? "later" : `≤ ${label}`}</th
              >{/each}
            <th class="number">Events</th><th class="number">Last received</th>
          </tr>
        </thead>
        <tbody>
          {#each data.lateness as row (row.source)}
            {@const source = data.sources.find((entry) => entry.source === row.source)}
            <tr data-testid="lateness-{row.source}">
              <td class="font-semibold">{row.source}</td>
              <td>
                <svg
                  viewBox="0 0 {WIDTH} 14"
                  preserveAspectRatio="none"
                  class="inline-block h-3.5 w-36 align-middle lg:w-80"
                  aria-hidden="true"
                >
                  {#each pieces(row.within, row.events) as piece, index (index)}
                    <rect
                      x={piece.x}
                      width={piece.width}
                      height="14"
                      fill="var(--ink)"
                      opacity={SHADES[index]}
                    />
                  {/each}
                  <rect
                    x="0.5"
                    y="0.5"
                    width={WIDTH - 1}
                    height="13"
                    fill="none"
                    stroke="var(--rule-strong)"
                  />
                </svg>
              </td>
              {#each row.within as count, index (index)}
                <td class="number {count === 0 ? 'soft' : ''}" title="{number(count)} events"
                  >{percent(row.events ? count / row.events : 0)}</td
                >
              {/each}
              <td class="number">{number(row.events)}</td>
              <td class="number">
                {#if source?.silent}
                  <span
                    class="text-(--alarm)"
                    title="Longest usual pause: {duration(source.usual_pause_seconds ?? 0)}"
                    >no events for {duration(source.silent_seconds)}</span
                  >
                {:else if source}{moment(source.last_received_at, workspace.info!.time_zone)}{/if}
              </td>
            </tr>
          {/each}
        </tbody>
      </table>
    </Wide>
    <p class="soft small mt-1">
      Events received in the {data.days} days up to the as-of date. Left: within {data.classes[0]}; right:
      later than {data.classes.at(-2)}.
    </p>
  {/if}
{:else}
  <Waiting problem={lateness.problem} retry={() => lateness.reload()} />
{/if}
