<script lang="ts">
  import type { Schemas } from "../lib/api/client";
  import { day, moment } from "../lib/format";
  import { workspace } from "../lib/workspace.svelte";
  import Self from "./Verdict.svelte";

  /** One condition with its verdict, and what it rests on. */
  let { verdict, nearest }: { verdict: Schemas["Verdict"]; nearest: string | null } = $props();

  const zone = $derived(workspace.info!.time_zone);
</script>

<li class="py-1.5" data-testid="verdict" data-holds={verdict.holds}>
  <p class="flex items-baseline gap-3">
    <span class="w-8 shrink-0 font-semibold {verdict.holds ? '' : 'text-(--alarm)'}"
      >{verdict.holds ? "yes" : "no"}</span
    >
    <span class="flex-1">
      <span class="font-serif">{verdict.said}</span>
      {#if verdict.found}<span class="soft">
          – {verdict.found}{#if verdict.asked && !verdict.holds}; required: {verdict.asked}{/if}</span
        >{/if}
      {#if !verdict.holds && verdict.place === nearest}<strong class="ml-1">closest to matching</strong>{/if}
      {#if !verdict.holds && verdict.nearness > 0}
        <svg
          width="60"
          height="6"
          class="ml-2 inline"
          role="img"
          aria-label="{Math.round(verdict.nearness * 100)}% of the way"
        >
          <rect width="60" height="6" fill="var(--rule)" /><rect
            width={60 * verdict.nearness}
            height="6"
            fill="var(--ink-soft)"
          />
        </svg>
      {/if}
    </span>
  </p>
  {#if verdict.facts.length}
    <ul class="soft small ml-11">
      {#each verdict.facts as fact, index (index)}
        <li>{fact.what}, {fact.whole_day ? day(fact.at) : moment(fact.at, zone)}</li>
      {/each}
      {#if verdict.more}<li>and {verdict.more} more</li>{/if}
    </ul>
  {/if}
  {#if verdict.conditions.length}
    <ul class="ml-11 border-l border-(--rule) pl-3">
      {#each verdict.conditions as inner (inner.place)}<Self verdict={inner} {nearest} />{/each}
    </ul>
  {/if}
</li>
