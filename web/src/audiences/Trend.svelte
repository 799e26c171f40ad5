<script lang="ts">
  import { linear } from "../charts/scale";
  import { way } from "../charts/plot";
  import { answer, api } from "../lib/api/client";
  import { addDays, day, number, signed } from "../lib/format";
  import { workspace } from "../lib/workspace.svelte";

  /** The size of an audience as of each of the last days, as a small line with its ends written on it. */
  let { definition }: { definition: Record<string, unknown> } = $props();

  // Long enough that it never keeps the size waiting while a sentence is being written.
  const WAIT = 1500;
  const WIDTH = 220;
  const HEIGHT = 34;
  let sizes = $state.raw<number[]>([]);
  let running: AbortController | null = null;

  const asked = $derived(JSON.stringify({ definition, ...workspace.dates }));

  $effect(() => {
    const body = JSON.parse(asked) as { definition: Record<string, unknown>; as_of: string };
    void workspace.ruleSets;
    sizes = []; // those of another definition say nothing of this one
    const timer = setTimeout(() => void load(body), WAIT);
    return () => {
      clearTimeout(timer);
      running?.abort();
    };
  });

  async function load(body: { definition: Record<string, unknown>; as_of: string }) {
    running = new AbortController();
    const { signal } = running;
    try {
      sizes = (await answer(api.POST("/audiences/trend", { body, signal }))).sizes;
    } catch {
      // the size itself says what is wrong
    }
  }

  const low = $derived(Math.min(...sizes));
  const x = $derived(linear([0, Math.max(1, sizes.length - 1)], [2, WIDTH - 2]));
  const y = $derived(linear([low, Math.max(...sizes, low + 1)], [HEIGHT - 3, 3]));
</script>

<div class="flex h-10 items-center gap-3" data-testid="trend">
  {#if sizes.length}
    <span class="soft small">{number(sizes[0]!)} on {day(addDays(workspace.asOf, 1 - sizes.length))}</span>
    <svg width={WIDTH} height={HEIGHT} role="img" aria-label="Size over the last {sizes.length} days">
      <path
        d={way(sizes.map((size, index) => [x(index), y(size)]))}
        fill="none"
        stroke="var(--ink)"
        stroke-width="1.5"
      />
    </svg>
    <span class="small">{signed(sizes.at(-1)! - sizes[0]!)} in {sizes.length} days</span>
  {/if}
</div>
