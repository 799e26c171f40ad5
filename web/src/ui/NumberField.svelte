<script lang="ts">
  import type { HTMLInputAttributes } from "svelte/elements";

  /** A whole number with its name above it. */
  let { label, value = $bindable(), ...others }: { label: string } & HTMLInputAttributes = $props();
</script>

<label class="field">{label} <input type="number" min="1" class="w-24" bind:value {...others} /></label>
