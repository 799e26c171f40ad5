<script lang="ts">
  import { Pagination } from "@skeletonlabs/skeleton-svelte";
  import { address } from "../lib/address.svelte";
  import { number } from "../lib/format";

  /** Pages of a list; the page is in the address. */
  let { total, perPage, name }: { total: number; perPage: number; name: string } = $props();

  const page = $derived(Number(address.get("page") ?? 1));
  const first = $derived(total === 0 ? 0 : (page - 1) * perPage + 1);

  function turn(to: number) {
    if (to !== page) address.go(address.with({ page: to === 1 ? null : String(to) }));
  }
</script>

<div class="mt-3 flex flex-wrap items-center gap-4">
  <span class="soft small"
    >{number(first)}–{number(Math.min(total, page * perPage))} of {number(total)} {name}</span
  >
  {#if total > perPage}
    <Pagination
      count={total}
      pageSize={perPage}
      {page}
      onPageChange={(details) => turn(details.page)}
      class="flex flex-wrap gap-1"
    >
      <Pagination.PrevTrigger class="quiet" aria-label="Previous page">←</Pagination.PrevTrigger>
      <Pagination.Context>
        {#snippet children(pagination)}
          {#each pagination().pages as entry, index (index)}
            {#if entry.type === "page"}
              <Pagination.Item {...entry} class="quiet" aria-label="Page {entry.value}"
                >{entry.value}</Pagination.Item
              >
            {:else}
              <Pagination.Ellipsis {index} class="px-1">…</Pagination.Ellipsis>
            {/if}
          {/each}
        {/snippet}
      </Pagination.Context>
      <Pagination.NextTrigger class="quiet" aria-label="Next page">→</Pagination.NextTrigger>
    </Pagination>
  {/if}
</div>
