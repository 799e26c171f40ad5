<script lang="ts">
  import { number } from "../lib/format";
  import { SEEN_STATES, type State } from "./states";
  import StateMark from "./StateMark.svelte";

  /** How many of an audience are in each state. */
  let { states }: { states: Record<string, number> } = $props();

  const shown: State[] = [...SEEN_STATES, "never_active"];
</script>

<p class="flex flex-wrap gap-x-5" data-testid="state-mix">
  {#each shown as state (state)}
    {#if states[state]}<span class="whitespace-nowrap">{number(states[state])} <StateMark {state} /></span
      >{/if}
  {/each}
</p>
