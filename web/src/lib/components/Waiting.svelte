<script lang="ts">
  import type { Problem } from "../api/client";

  /** What stands in for an answer that is not there: loading, or what went wrong. */
  let { problem, retry }: { problem: Problem | null; retry?: () => void } = $props();
</script>

{#if problem}
  <div role="alert" class="my-6 max-w-2xl border-l-4 border-(--alarm) pl-4">
    <p class="font-semibold">{problem.detail}</p>
    {#if problem.errors.length}
      <ul class="mt-1 list-disc pl-5">
        {#each problem.errors as fault, index (index)}
          <li>{fault.place ? `${fault.place}: ` : ""}{fault.message}</li>
        {/each}
      </ul>
    {/if}
    {#if retry}<button class="quiet mt-3" onclick={retry}>Try again</button>{/if}
  </div>
{:else}
  <p role="status" class="soft my-6">Reading the ledger…</p>
{/if}
