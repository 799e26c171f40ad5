<script lang="ts">
  import { address } from "../lib/address.svelte";
  import { answer, api } from "../lib/api/client";
  import { plural } from "../lib/format";
  import { Resource } from "../lib/resource.svelte";
  import Pager from "../ui/Pager.svelte";
  import PeopleTable from "../people/PeopleTable.svelte";
  import Waiting from "../ui/Waiting.svelte";

  /** The people a destination rejected, and why. */
  let { id }: { id: number } = $props();

  const PER_PAGE = 50;
  const page = $derived(Number(address.get("page") ?? 1));
  const found = new Resource((signal) =>
    answer(api.GET("/runs/{id}/refusals", { params: { path: { id }, query: { page } }, signal })),
  );
</script>

<section class="mt-6" aria-label="Rejected by the destination">
  <h2>Rejected by the destination</h2>
  {#if found.data && !found.problem}
    <ul class="says">
      {#each found.data.reasons as { reason, people } (reason)}
        <li>{plural(people, "person", "people")}: {reason || "no reason given"}</li>
      {/each}
    </ul>
    <PeopleTable rows={found.data.rows} />
    <Pager total={found.data.total} perPage={PER_PAGE} name="people" />
  {:else}<Waiting problem={found.problem} retry={() => found.reload()} />{/if}
</section>
