<script lang="ts">
  /** Suggests the browser's time zone where another one is chosen. */
  let { chosen, choose }: { chosen: string; choose: (zone: string) => void } = $props();

  const zone = Intl.DateTimeFormat().resolvedOptions().timeZone;
</script>

{#if zone && zone !== chosen}
  <button type="button" class="small w-fit underline" onclick={() => choose(zone)}
    >Use the time zone of this computer: {zone}</button
  >
{/if}
