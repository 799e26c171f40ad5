<script lang="ts">
  import type { Answer } from "../../lib/api/ask";
  import { comparison } from "../../audiences/comparison.svelte";
  import { day } from "../../lib/format";
  import { put } from "../codec";
  import Shortened from "../../ui/Shortened.svelte";
  import { ink, peopleIn, said } from "./said";

  /**
   * The lines beside the picture: its legend, what switches them on and off in it, and their values: of the period that
   * is pointed at, or of the whole range. Each opens into the people behind it.
   */
  let { answer, hidden, pointed }: { answer: Answer<"trends">; hidden: number[]; pointed: number | null } =
    $props();

  const data = $derived(answer.picture);

  const period = $derived(pointed === null ? null : (data.periods[pointed] ?? null));
  const from = $derived(period?.from ?? data.from);
  const to = $derived(period?.to ?? data.to);

  function switched(index: number): string | null {
    const after = hidden.includes(index) ? hidden.filter((one) => one !== index) : [...hidden, index];
    return after.length === data.rows.length ? hidden.join(",") || null : after.join(",") || null;
  }
</script>

<div data-testid="line-key">
  <p class="soft small" aria-live="polite">
    {#if !period}Whole period{:else if from === to}{day(from)}{:else}{day(from)} to {day(to)}{/if}{period &&
    !period.complete
      ? ", incomplete"
      : ""}
  </p>
  <ul class="mt-1">
    {#each data.rows as line, index (index)}
      {@const on = !hidden.includes(index)}
      {@const value = pointed === null ? line.total : line.values[pointed]}
      {@const { colour, dashed } = ink(line, index, (id) => comparison.position(id))}
      {@const people = peopleIn(answer, index, pointed)}
      <li class="border-b border-(--rule) py-1.5">
        <div class="flex items-baseline gap-2">
          <button
            class="flex min-w-0 cursor-pointer items-center gap-2 text-left {on ? '' : 'soft'}"
            aria-pressed={on}
            aria-label="Show {line.name} in the chart"
            onclick={() => put({ hidden: switched(index) })}
          >
            <svg width="18" height="10" aria-hidden="true" class="shrink-0"
              ><line
                x1="0"
                x2="18"
                y1="5"
                y2="5"
                stroke={colour}
                stroke-width={on ? 3 : 1}
                stroke-dasharray={dashed ? "5 3" : undefined}
              /></svg
            >
            <span><Shortened text={line.name} /></span>
          </button>
          {#if value === null || value === undefined}<span class="soft ml-auto">–</span>
          {:else if value === 0}<span class="soft ml-auto tabular-nums">{said(data, 0)}</span>
          {:else if people}<a class="ml-auto font-semibold whitespace-nowrap tabular-nums" href={people}
              >{said(data, value)}</a
            >{:else}<span class="ml-auto font-semibold whitespace-nowrap tabular-nums"
              >{said(data, value)}</span
            >{/if}
        </div>
      </li>
    {/each}
  </ul>
</div>
