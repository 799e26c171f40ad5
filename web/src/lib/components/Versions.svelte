<script lang="ts">
  import { answer, api, type Schemas } from "../api/client";
  import { moment } from "../format";
  import { Resource } from "../resource.svelte";
  import { workspace } from "../workspace.svelte";
  import Waiting from "./Waiting.svelte";

  /** The versions of an audience as sentences; an earlier one can be made the newest again. */
  let {
    audience,
    restored,
  }: { audience: Schemas["Audience"]; restored: (audience: Schemas["Audience"]) => void } = $props();

  const versions = new Resource((signal) => {
    void audience.version;
    return answer(api.GET("/audiences/{id}/versions", { params: { path: { id: audience.id } }, signal }));
  });

  async function restore(number: number) {
    const params = { path: { id: audience.id, number } };
    restored(await answer(api.POST("/audiences/{id}/versions/{number}/restore", { params })));
  }
</script>

{#if versions.data}
  {#if versions.data.versions.length > 1}
    <details class="mt-8" data-testid="versions">
      <summary class="cursor-pointer font-semibold">{versions.data.versions.length} versions</summary>
      <ol class="mt-2">
        {#each versions.data.versions as version (version.number)}
          <li class="flex items-baseline gap-4 border-b border-(--rule) py-2">
            <span class="soft small w-40 shrink-0"
              >version {version.number}, {moment(version.created_at, workspace.info!.time_zone)}</span
            >
            <span class="flex-1 font-serif">{version.sentence}</span>
            {#if version.digest !== audience.digest}
              <button class="quiet" onclick={() => restore(version.number)}>Restore</button>
            {/if}
          </li>
        {/each}
      </ol>
    </details>
  {/if}
{:else if versions.problem}
  <Waiting problem={versions.problem} retry={() => versions.reload()} />
{/if}
