<script lang="ts">
  import type { Snippet } from "svelte";

  /** Holds what may be wider than the window, and can be scrolled by keyboard where it is. */
  let { label, testid, children }: { label: string; testid?: string; children: Snippet } = $props();

  let outer = $state<HTMLElement>();
  let inner = $state(0);
  let room = $state(0);
  const wide = $derived(inner > room);

  $effect(() => {
    const observer = new ResizeObserver(() => {
      room = outer!.clientWidth;
      inner = outer!.scrollWidth;
    });
    observer.observe(outer!);
    for (const child of outer!.children) observer.observe(child);
    return () => observer.disconnect();
  });
</script>

<!-- svelte-ignore a11y_no_noninteractive_tabindex -->
<div
  class="mt-3 overflow-x-auto"
  data-testid={testid}
  bind:this={outer}
  role={wide ? "region" : undefined}
  aria-label={wide ? label : undefined}
  tabindex={wide ? 0 : undefined}
>
  {@render children()}
</div>
