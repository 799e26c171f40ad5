<script lang="ts">
  import { ANALYSES } from "./analyses";
  import SavedList from "./SavedList.svelte";
  import Starting from "./Starting.svelte";

  /** The questions of all analyses, what is saved, and where to begin. */
  let {
    missing,
    to,
  }: {
    /** The name in the address, where there is no analysis of that name. */
    missing: string;
    /** The address of an analysis. */
    to: (key: string) => string;
  } = $props();

  /** What is kept of Lifecycle stands among them. */
  const LIFECYCLE = {
    states: "States and movement",
    activity: "Activity",
    thresholds: "Thresholds",
    revisions: "Revisions",
  };
</script>

{#if missing}<p class="mt-4" role="status">
    There is no analysis called “{missing}”. These are the ones there are:
  </p>{/if}
<div class="grid grid-cols-[minmax(0,1fr)] gap-x-12 gap-y-6 lg:grid-cols-2">
  <ul class="mt-4 flex max-w-[46rem] flex-col gap-3">
    {#each ANALYSES as { key, title, asks } (key)}
      <li>
        <a class="says" href={to(key)}>{asks}</a>
        <span class="soft small block">{title}</span>
      </li>
    {/each}
  </ul>
  <div>
    <SavedList
      titles={{ ...LIFECYCLE, ...Object.fromEntries(ANALYSES.map(({ key, title }) => [key, title])) }}
    >
      <Starting />
    </SavedList>
  </div>
</div>
