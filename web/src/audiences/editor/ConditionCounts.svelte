<script lang="ts">
  import type { Schemas } from "../../lib/api/client";
  import { number, percent } from "../../lib/format";

  /** How many people are left after a condition, or, of a branch, how many fit it alone and what it adds. */
  let { line, base }: { line: Schemas["Line"]; base: number } = $props();

  const WIDTH = 176;
  const left = $derived(base && line.left !== undefined ? (WIDTH * line.left) / base : 0);
</script>

{#if line.left !== undefined}
  <div class="ml-auto w-44 shrink-0 text-right font-sans" data-testid="left">
    <span class="font-semibold">{number(line.left)}</span>
    <span class="soft small"> left</span>
    <svg viewBox="0 0 {WIDTH} 4" class="block h-1 w-44" aria-hidden="true" preserveAspectRatio="none">
      <rect width={WIDTH} height="4" fill="var(--rule)" />
      <rect x={WIDTH - left} width={left} height="4" fill={line.left === 0 ? "var(--alarm)" : "var(--ink)"} />
    </svg>
    <span class="soft small" title="people who match this condition on its own"
      >{number(line.alone ?? 0)} on its own, {percent(base ? (line.alone ?? 0) / base : 0)}</span
    >
  </div>
{:else if line.alone !== undefined}
  <div class="soft small ml-auto w-44 shrink-0 text-right font-sans" data-testid="branch">
    {number(line.alone)} on its own{#if line.adds !== undefined}, <span
        title="people matched by no other alternative">adds {number(line.adds)}</span
      >{/if}
  </div>
{/if}
