<script lang="ts">
  import { stateName, type State } from "./states";

  let {
    state,
    reactivated = false,
    label = true,
    hollow = false,
  }: { state: State; reactivated?: boolean; label?: boolean; hollow?: boolean } = $props();
</script>

<span class="inline-flex items-center gap-2 whitespace-nowrap">
  <svg width="14" height="14" aria-hidden="true">
    <rect
      width="14"
      height="14"
      rx="2"
      fill={hollow ? "none" : `url(#state-${state})`}
      stroke="var(--ink)"
      stroke-opacity="0.25"
    />
  </svg>
  {#if label}<span
      >{stateName(state)}{#if reactivated}<span class="soft"> (reactivated)</span>{/if}</span
    >{/if}
</span>
