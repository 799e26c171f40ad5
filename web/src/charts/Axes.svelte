<script lang="ts">
  import { fitting } from "./plot";

  /** The light axes of a picture: levels across it with their names, and marks along its bottom edge. */
  let {
    levels,
    y,
    format,
    left,
    right,
    marks,
    x,
    bottom,
  }: {
    levels: number[];
    y: (level: number) => number;
    format: (level: number) => string;
    /** Where the picture begins and ends, and where its bottom edge lies. */
    left: number;
    right: number;
    marks: { at: number; text: string }[];
    x: (at: number) => number;
    bottom: number;
  } = $props();

  const named = $derived(fitting(marks.map(({ at, text }) => ({ at: x(at), text }))));
</script>

{#each levels as level (level)}
  <line x1={left} x2={right} y1={y(level)} y2={y(level)} stroke="var(--rule)" stroke-width="1" />
  <text x={left - 8} y={y(level) + 4} text-anchor="end" class="fill-(--ink-soft) text-[12px]"
    >{format(level)}</text
  >
{/each}
{#each marks as mark (mark.at)}
  <line x1={x(mark.at)} x2={x(mark.at)} y1={bottom} y2={bottom + 5} stroke="var(--rule-strong)" />
{/each}
{#each named as { at, text } (at)}
  <text x={at} y={bottom + 20} text-anchor="middle" class="fill-(--ink-soft) text-[12px]">{text}</text>
{/each}
