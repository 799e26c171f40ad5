<script lang="ts">
  import { letter, tray } from "./tray.svelte";
  import TrayMark from "./TrayMark.svelte";

  /** Puts an audience into the tray or takes it out. */
  let { id, name }: { id: number; name: string } = $props();

  const position = $derived(tray.position(id));
</script>

<button
  class="quiet"
  aria-pressed={position >= 0}
  aria-label="{position >= 0 ? `${letter(position)} in the tray` : 'Pin'}: {name}"
  onclick={() => (position >= 0 ? tray.unpin(id) : tray.pin(id, name))}
  >{#if position >= 0}<TrayMark {position} /> in the tray{:else}Pin{/if}</button
>
