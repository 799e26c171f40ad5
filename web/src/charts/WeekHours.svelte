<script lang="ts">
  import { number } from "../lib/format";

  /** How much falls on each hour of the week: a row for each day, a place for each hour, the more the darker. */
  let {
    values,
    label,
    what,
    colour,
    hrefs,
    height = 330,
  }: {
    /** From Monday midnight on. */
    values: number[];
    label: string;
    /** What is counted. */
    what: string;
    colour: string;
    /** Where a click on each leads. */
    hrefs: (string | null)[];
    height?: number;
  } = $props();

  const DAYS = ["Monday", "Tuesday", "Wednesday", "Thursday", "Friday", "Saturday", "Sunday"];
  const HOURS = 24;
  const margin = { top: 22, bottom: 4, left: 92, right: 48 };
  const uid = $props.id();
  let width = $state(800);
  /** The place that the tab key goes to; the arrow keys go on from there. */
  let chosen = $state<number | null>(null);
  const most = $derived(Math.max(1, ...values));
  const start = $derived(chosen ?? values.indexOf(Math.max(...values)));
  const all = $derived(Math.max(1, sum(values)));
  const across = $derived((width - margin.left - margin.right) / HOURS);
  const down = $derived((height - margin.top - margin.bottom) / DAYS.length);

  function sum(some: number[]): number {
    return some.reduce((total, value) => total + value, 0);
  }

  function name(row: number, hour: number): string {
    return `${DAYS[row]} ${hour}:00 to ${hour + 1}:00: ${number(values[row * HOURS + hour]!)} ${what}`;
  }

  function key(event: KeyboardEvent, at: number) {
    const step = { ArrowLeft: -1, ArrowRight: 1, ArrowUp: -HOURS, ArrowDown: HOURS }[event.key];
    if (!step || at + step < 0 || at + step >= values.length) return;
    event.preventDefault();
    chosen = at + step;
    document.getElementById(`${uid}-${chosen}`)?.focus();
  }
</script>

<div class="mt-1" bind:clientWidth={width}>
  <svg
    viewBox="0 0 {width} {height}"
    {width}
    {height}
    role="group"
    aria-label="{label}. Use the arrow keys to move between hours."
  >
    {#each Array(HOURS / 3) as _, third (third)}
      <text x={margin.left + third * 3 * across + 2} y="14" class="fill-(--ink-soft) text-[12px]"
        >{third * 3}:00</text
      >
    {/each}
    {#each DAYS as day, row (day)}
      {@const top = margin.top + row * down}
      <text
        x={margin.left - 10}
        y={top + down / 2 + 4}
        text-anchor="end"
        class="fill-(--ink-soft) text-[13px]">{day}</text
      >
      {#each Array(HOURS) as _, hour (hour)}
        {@const at = row * HOURS + hour}
        <a
          id="{uid}-{at}"
          href={hrefs[at] ?? undefined}
          tabindex={at === start ? 0 : -1}
          role={hrefs[at] ? undefined : "img"}
          aria-label={name(row, hour)}
          onkeydown={(event) => key(event, at)}
        >
          <rect
            x={margin.left + hour * across + 1}
            y={top + 1}
            width={Math.max(1, across - 2)}
            height={Math.max(1, down - 2)}
            fill={colour}
            fill-opacity={(values[at]! / most) ** 1.5}
            stroke="var(--rule)"><title>{name(row, hour)}</title></rect
          >
        </a>
      {/each}
      <text x={width - margin.right + 8} y={top + down / 2 + 4} class="fill-(--ink) text-[13px]"
        >{Math.round((sum(values.slice(row * HOURS, (row + 1) * HOURS)) / all) * 100)}%</text
      >
    {/each}
  </svg>
</div>
