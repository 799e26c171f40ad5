<script lang="ts">
  import type { State } from "./states";

  let {
    state,
    returned = false,
    label = true,
  }: { state: State; returned?: boolean; label?: boolean } = $props();
</script>

<span class="inline-flex items-center gap-2 whitespace-nowrap">
  <svg width="14" height="14" aria-hidden="true">
    <rect
      width="14"
      height="14"
      rx="2"
      fill="url(#state-{state})"
      stroke="var(--ink)"
      stroke-opacity="0.25"
    />
  </svg>
  {#if label}<span
      >{state}{#if returned}<span class="soft"> (returned)</span>{/if}</span
    >{/if}
</span>
