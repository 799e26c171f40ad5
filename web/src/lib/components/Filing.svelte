<script lang="ts">
  import { author } from "../author.svelte";

  /** Where an audience is filed, what is noted of it, and who says so. */
  let { folder = $bindable(), note = $bindable() }: { folder: string; note: string } = $props();
</script>

<details class="relative">
  <summary class="cursor-pointer">folder and note</summary>
  <div class="panel absolute z-20 mt-1 flex w-80 flex-col gap-2">
    <label class="field">Folder <input maxlength="100" bind:value={folder} /></label>
    <label class="field">Note <textarea rows="3" maxlength="2000" bind:value={note}></textarea></label>
    <label class="field"
      >Your name, told with the versions you save
      <input
        maxlength="100"
        value={author.name}
        oninput={(event) => author.set(event.currentTarget.value)}
      /></label
    >
  </div>
</details>
{#if note}<span class="max-w-prose truncate" title={note}>{note}</span>{/if}
