<script lang="ts">
  import StateMark from "../components/StateMark.svelte";
  import { SEEN_STATES, type State } from "../states";

  /** Which of the states; at least one stays chosen. */
  let { states, change }: { states: State[]; change: (states: State[]) => void } = $props();

  const ALL: State[] = [...SEEN_STATES, "unseen"];

  function toggle(state: State, on: boolean) {
    const next = ALL.filter((other) => (other === state ? on : states.includes(other)));
    if (next.length) change(next);
  }
</script>

{#each ALL as state (state)}
  <label class="flex items-center gap-2 py-1">
    <input
      type="checkbox"
      checked={states.includes(state)}
      disabled={states.length === 1 && states[0] === state}
      onchange={(event) => toggle(state, event.currentTarget.checked)}
    />
    <StateMark {state} />
  </label>
{/each}
