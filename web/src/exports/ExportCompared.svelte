<script lang="ts">
  import { untrack, type ComponentProps } from "svelte";
  import type { Written } from "./exports";
  import ExportSentence from "./ExportSentence.svelte";

  /** One of two versions of an export, to be read only. */
  let { written, ...parts }: { written: Written } & Omit<ComponentProps<typeof ExportSentence>, "settings"> =
    $props();

  let settings = $state(untrack(() => $state.snapshot(written) as Written));
</script>

<p class="font-semibold">{settings.name}</p>
<div inert><ExportSentence bind:settings {...parts} /></div>
