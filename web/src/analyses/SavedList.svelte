<script lang="ts">
  import type { Snippet } from "svelte";
  import { answer, api } from "../lib/api/client";
  import { Resource } from "../lib/resource.svelte";
  import { linkTo, moves, type Saved } from "./saved";

  /** Saved analyses by folder, and the content below them, which appears with them so that it does not move. */
  let { titles, children }: { titles: Record<string, string>; children?: Snippet } = $props();

  const all = new Resource((signal) => answer(api.GET("/saved-analyses", { signal })));
  const folders = $derived.by(() => {
    const found: Record<string, Saved[]> = {};
    for (const one of all.data?.saved_analyses ?? []) (found[one.folder] ??= []).push(one);
    return Object.entries(found).sort(([one], [other]) => one.localeCompare(other));
  });
</script>

{#if folders.length}
  <section class="mt-6" data-testid="saved-list">
    <h2>Saved analyses</h2>
    {#each folders as [folder, list] (folder)}
      {#if folder}<h3 class="soft small mt-2">{folder}</h3>{/if}
      <ul class="mt-1">
        {#each list as saved (saved.id)}
          <li class="border-b border-(--rule) py-1.5">
            <a href={linkTo(saved.analysis, saved.question, saved.id)}>{saved.name}</a>
            <span class="soft small"
              >{titles[saved.analysis] ?? saved.analysis}{moves(saved.question)
                ? ""
                : ", fixed dates"}{saved.private
                ? ", private"
                : saved.owner && !saved.mine
                  ? `, ${saved.owner}`
                  : ""}</span
            >
            {#if saved.note}<p class="soft small">{saved.note}</p>{/if}
          </li>
        {/each}
      </ul>
    {/each}
  </section>
{/if}
{#if all.data || all.problem}{@render children?.()}{/if}
