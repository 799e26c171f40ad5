<script lang="ts">
  import { answer, api } from "../../lib/api/client";
  import Waiting from "../../lib/components/Waiting.svelte";
  import { Kept } from "../../lib/kept.svelte";

  /** Folders as destinations. */
  const destinations = new Kept((signal) => answer(api.GET("/destinations", { signal })));
  let folder = $state({ name: "", folder: "" });
</script>

{#if destinations.refused}<Waiting problem={destinations.refused} />{/if}
<h2 class="mt-8">Folders</h2>
<p class="soft max-w-2xl">
  A folder under the outbox on this machine, from where another program takes the files. A file appears there
  whole, after the manifest that describes it.
</p>
{#if destinations.data}
  {#if destinations.data.destinations.length}
    <table class="figures mt-2 w-auto!" data-testid="destinations">
      <thead><tr><th>Destination</th><th>Folder</th><th><span class="sr-only">Actions</span></th></tr></thead>
      <tbody>
        {#each destinations.data.destinations as row (row.id)}
          <tr>
            <td class="pr-8!">{row.name}</td>
            <td class="pr-8!"><code>{row.settings.folder}</code></td>
            <td
              ><button
                class="quiet"
                aria-label="Remove {row.name}"
                onclick={() =>
                  destinations.attempt(() =>
                    answer(api.DELETE("/destinations/{id}", { params: { path: { id: row.id } } })),
                  )}>Remove</button
              ></td
            >
          </tr>
        {/each}
      </tbody>
    </table>
  {/if}
  <form
    class="mt-3 flex flex-wrap items-end gap-3"
    onsubmit={(event) => {
      event.preventDefault();
      void destinations.attempt(async () => {
        const { name } = folder;
        await answer(
          api.POST("/destinations", { body: { name, kind: "folder", settings: { folder: folder.folder } } }),
        );
        folder = { name: "", folder: "" };
      });
    }}
  >
    <label class="field"
      >A new destination called <input required maxlength="255" bind:value={folder.name} /></label
    >
    <label class="field">in the folder <input required maxlength="100" bind:value={folder.folder} /></label>
    <button class="quiet">Make the destination</button>
  </form>
{:else}<Waiting problem={destinations.problem} retry={() => destinations.reload()} />{/if}
