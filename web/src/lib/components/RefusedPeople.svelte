<script lang="ts">
  import { address } from "../address.svelte";
  import { answer, api } from "../api/client";
  import { plural } from "../format";
  import { Resource } from "../resource.svelte";
  import Pager from "./Pager.svelte";
  import PeopleTable from "./PeopleTable.svelte";
  import Waiting from "./Waiting.svelte";

  /** Whom the destination of a run did not take, and why. */
  let { id }: { id: number } = $props();

  const PER_PAGE = 50;
  const page = $derived(Number(address.get("page") ?? 1));
  const found = new Resource((signal) =>
    answer(api.GET("/runs/{id}/refusals", { params: { path: { id }, query: { page } }, signal })),
  );
</script>

<section class="mt-6" aria-label="Refused by the destination">
  <h2>Refused by the destination</h2>
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
