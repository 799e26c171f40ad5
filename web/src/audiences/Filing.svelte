<script lang="ts">
  /** Where an audience is filed, and what is noted of it. */
  let { folder = $bindable(), note = $bindable() }: { folder: string; note: string } = $props();
</script>

<details class="relative">
  <summary class="cursor-pointer">Folder and note</summary>
  <div class="panel absolute z-20 mt-1 flex w-80 flex-col gap-2">
    <label class="field">Folder <input maxlength="100" bind:value={folder} /></label>
    <label class="field">Note <textarea rows="3" maxlength="2000" bind:value={note}></textarea></label>
  </div>
</details>
{#if note}<span class="max-w-prose truncate" title={note}>{note}</span>{/if}
