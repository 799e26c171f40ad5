<script lang="ts">
  import { answer, api, type Schemas } from "../lib/api/client";
  import { moment } from "../lib/format";
  import { Resource } from "../lib/resource.svelte";
  import { workspace } from "../lib/workspace.svelte";
  import Waiting from "../ui/Waiting.svelte";

  /** The versions of an audience side by side as sentences; an earlier one can be made the newest again. */
  let {
    audience,
    restored,
  }: { audience: Schemas["Audience"]; restored: (audience: Schemas["Audience"]) => void } = $props();

  const versions = new Resource((signal) => {
    void audience.version;
    return answer(api.GET("/audiences/{id}/versions", { params: { path: { id: audience.id } }, signal }));
  });
  const newest = $derived(versions.data?.versions[0]);
  let chosen = $state<number | null>(null);
  const earlier = $derived(
    versions.data?.versions.find((version) => version.number === chosen) ?? versions.data?.versions[1],
  );

  async function restore(number: number) {
    const params = { path: { id: audience.id, number } };
    restored(await answer(api.POST("/audiences/{id}/versions/{number}/restore", { params })));
  }

  function title(version: Schemas["Version"]): string {
    const by = version.author ? ` by ${version.author}` : "";
    return `version ${version.number}${by}, ${moment(version.created_at, workspace.info!.time_zone)}`;
  }

  /** The conditions of one that the other does not have. */
  function only(here: string[], there: string[]): Set<string> {
    return new Set(here.filter((condition) => !there.includes(condition)));
  }
</script>

{#snippet side(version: Schemas["Version"], other: Schemas["Version"], word: string)}
  {@const changed = only(version.conditions, other.conditions)}
  <ol class="mt-1 font-serif">
    {#each version.conditions as condition, index (index)}
      <li class="py-0.5 {changed.has(condition) ? 'border-l-2 border-(--accent) pl-2' : 'pl-2.5'}">
        {#if changed.has(condition)}<span class="small font-sans font-semibold">{word} </span>{/if}{condition}
      </li>
    {:else}<li class="soft pl-2.5">{version.sentence}</li>{/each}
  </ol>
{/snippet}

{#if versions.data}
  {#if newest && earlier}
    <details class="mt-10" data-testid="versions">
      <summary class="cursor-pointer font-semibold">{versions.data.versions.length} versions</summary>
      <div class="mt-2 grid gap-x-12 gap-y-4 md:grid-cols-2">
        <div>
          <p class="flex flex-wrap items-center gap-2">
            <select
              aria-label="Earlier version"
              value={String(earlier.number)}
              onchange={(event) => (chosen = Number(event.currentTarget.value))}
            >
              {#each versions.data.versions.slice(1) as version (version.number)}
                <option value={String(version.number)}>{title(version)}</option>
              {/each}
            </select>
            {#if earlier.digest !== audience.digest}
              <button class="quiet" onclick={() => restore(earlier.number)}>Restore</button>
            {:else}<span class="soft small">same as the latest version</span>{/if}
          </p>
          {@render side(earlier, newest, "gone:")}
        </div>
        <div>
          <p class="min-h-8 py-1">
            {title(newest)}
          </p>
          {@render side(newest, earlier, "new:")}
        </div>
      </div>
    </details>
  {/if}
{:else if versions.problem}
  <Waiting problem={versions.problem} retry={() => versions.reload()} />
{/if}
