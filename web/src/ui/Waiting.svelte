<script lang="ts">
  import { untrack } from "svelte";
  import { connection } from "../lib/connection.svelte";
  import type { Problem } from "../lib/api/client";
  import { GONE } from "../lib/conflict";
  import { placeSaid } from "../lib/places";
  import type { Resource } from "../lib/resource.svelte";

  /** What stands in for an answer that is not there: how far it is, or what went wrong. */
  let {
    of = null,
    problem = of?.problem ?? null,
    retry = of ? () => void of.reload() : undefined,
    restore,
  }: {
    of?: Resource<unknown> | null;
    problem?: Problem | null;
    retry?: (() => void) | undefined;
    /** Restores what has been deleted, and saves it. */
    restore?: () => void;
  } = $props();

  // What failed without an answer is tried again once there are answers; a resource does that by itself.
  $effect(() => {
    if (connection.returns) untrack(() => problem?.status === 0 && !of && retry?.());
  });

  const untold = $derived(
    problem?.errors.filter(({ message }) => !problem.detail.includes(message.slice(1))) ?? [],
  );
  const progress = $derived(of?.progress ?? null);
</script>

{#if problem}
  <div role="alert" class="my-6 max-w-2xl border-l-4 border-(--alarm) pl-4">
    {#if problem.status === 404}<h1>{problem.detail}</h1>{:else}<p class="font-semibold">
        {problem.detail}
      </p>{/if}
    {#if untold.length}
      <ul class="mt-1 list-disc pl-5">
        {#each untold as fault, index (index)}
          {@const place = placeSaid(fault.place)}
          <li class="first-letter:uppercase">{place ? `${place}: ` : ""}{fault.message}</li>
        {/each}
      </ul>
    {/if}
    {#if retry}<button class="quiet mt-3" onclick={retry}>Try again</button>{/if}
    {#if restore && problem.status === GONE}<button class="quiet mt-3" onclick={restore}
        >Restore and save</button
      >{/if}
  </div>
{:else if of?.cancelled}
  <p role="status" class="my-6">
    Cancelled. {#if retry}<button class="quiet ml-2" onclick={retry}>Run again</button>{/if}
  </p>
{:else if progress}
  <div role="status" class="my-6 flex flex-wrap items-center gap-x-4 gap-y-2">
    <span class="soft">{progress.what}…</span>
    {#await import("./ProgressBar.svelte") then { default: ProgressBar }}
      <ProgressBar
        label="{progress.done} of {progress.all} parts"
        percent={progress.all > 1 ? (100 * progress.done) / progress.all : null}
        width="w-64"
      />
    {/await}
    <button class="quiet" onclick={() => of?.cancel()}>Cancel</button>
  </div>
{:else}
  <p role="status" class="soft my-6">Loading…</p>
{/if}
