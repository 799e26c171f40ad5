<script lang="ts">
  import type { Schemas } from "../lib/api/client";
  import { shown } from "../lib/format";
  import Wide from "../ui/Wide.svelte";

  /** The first rows of what would be exported. */
  let { columns, rows }: Pick<Schemas["ExportTrial"], "columns" | "rows"> = $props();
</script>

<Wide label="The first rows" testid="sample">
  <table class="figures">
    <thead
      ><tr
        >{#each columns as name, index (index)}<th>{name}</th>{/each}</tr
      ></thead
    >
    <tbody>
      {#each rows as row, index (index)}
        <tr>
          {#each row as value, at (at)}
            <td class="small max-w-60 truncate leading-6 {typeof value === 'number' ? 'text-right' : ''}"
              >{#if value === null}<span class="soft">·</span>{:else}{shown(value)}{/if}</td
            >
          {/each}
        </tr>
      {:else}
        <tr><td class="soft">No one would be exported.</td></tr>
      {/each}
    </tbody>
  </table>
</Wide>
