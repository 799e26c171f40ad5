<script lang="ts">
  import { address } from "../lib/address.svelte";

  /** What stands where something could not be drawn, until it is tried again or another page is gone to. */
  let { what, reset }: { what: string; reset: () => void } = $props();

  const failedAt = address.path;
  $effect(() => {
    if (address.path !== failedAt) reset();
  });
</script>

<div role="alert" class="my-6 max-w-2xl border-l-4 border-(--alarm) pl-4">
  <p class="font-semibold">{what}</p>
  <button class="quiet mt-3" onclick={reset}>Try again</button>
</div>
