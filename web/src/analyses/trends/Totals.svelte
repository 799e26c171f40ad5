<script lang="ts">
  import { comparison } from "../../audiences/comparison.svelte";
  import { peopleOf } from "../../lib/groups";
  import { ink, peopleIn, said, type Picture } from "./said";

  /** What each line comes to over the whole range, as bars from the left. */
  let { data, hidden, label }: { data: Picture; hidden: number[]; label: string } = $props();

  const ROW = 30;
  const NAMES = 190;
  const VALUES = 110;
  const LETTERS = 26;
  let width = $state(800);
  const rows = $derived(
    data.rows.map((line, index) => ({ line, index })).filter(({ index }) => !hidden.includes(index)),
  );
  const most = $derived(Math.max(1e-9, ...rows.map(({ line }) => Math.abs(line.total ?? 0))));
  const size = (total: number) => Math.max(1, (Math.abs(total) / most) * (width - NAMES - VALUES));
  const short = (name: string) => (name.length > LETTERS ? `${name.slice(0, LETTERS - 1)}…` : name);
</script>

<div class="mt-1" bind:clientWidth={width}>
  <svg
    viewBox="0 0 {width} {rows.length * ROW}"
    {width}
    height={rows.length * ROW}
    role="group"
    aria-label={label}
  >
    {#each rows as { line, index }, at (index)}
      {@const top = at * ROW}
      <text x={NAMES - 10} y={top + 19} text-anchor="end" class="fill-(--ink) text-[13px]"
        ><title>{line.name}</title>{short(line.name)}</text
      >
      {#if line.total}
        <a
          href={peopleOf(peopleIn(line, data.from, data.to))}
          aria-label="{line.name}: {said(data, line.total)}"
        >
          <rect
            x={NAMES}
            y={top + 5}
            width={size(line.total)}
            height={ROW - 10}
            fill={ink(line, index, (id) => comparison.position(id)).colour}
          />
          <text x={NAMES + size(line.total) + 8} y={top + 19} class="fill-(--ink) text-[13px] font-semibold"
            >{said(data, line.total)}</text
          >
        </a>
      {:else}
        <text x={NAMES + 2} y={top + 19} class="fill-(--ink-soft) text-[13px]"
          >{line.total === null ? "–" : said(data, 0)}</text
        >
      {/if}
    {/each}
  </svg>
</div>
