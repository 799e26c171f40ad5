<script lang="ts">
  import { address } from "../lib/address.svelte";
  import { answer, api } from "../lib/api/client";
  import { Live } from "../lib/live.svelte";
  import { workspace } from "../lib/workspace.svelte";
  import type { Schemas } from "../lib/api/client";
  import { session } from "../lib/session.svelte";
  import PeopleColumns from "../people/PeopleColumns.svelte";
  import PeopleTable from "../people/PeopleTable.svelte";
  import PickedPeople from "../people/PickedPeople.svelte";
  import { columnsOf } from "../people/people";
  import Waiting from "../ui/Waiting.svelte";
  import Why from "./Why.svelte";

  /** A few members with the facts that make them members, and anybody else who is asked for. */
  let { definition }: { definition: Record<string, unknown> } = $props();

  const columns = $derived(columnsOf(address.get("columns")));
  let chosen = $state.raw<(Schemas["PersonRow"] & { facts: string[] })[]>([]);
  const sample = new Live((signal) => {
    return answer(
      api.POST("/audiences/sample", { body: { definition, columns, ...workspace.dates }, signal }),
    );
  });
  const asked = $derived(Number(address.get("why")) || null);
  let search = $state("");
  let nobody = $state(false);

  function ask(id: number | null) {
    address.go(address.with({ why: id === null ? null : String(id) }), { replace: true });
  }

  async function find(event: SubmitEvent) {
    event.preventDefault();
    const query = { search: search.trim(), as_of: workspace.asOf, per_page: 1 };
    const found = (await answer(api.GET("/people", { params: { query } }))).rows[0];
    nobody = !found;
    if (found) ask(found.id);
  }
</script>

<section class="mt-10" aria-labelledby="sample-title">
  <div class="flex flex-wrap items-baseline gap-x-6 gap-y-1">
    <h2 id="sample-title">Sample of matching people</h2>
    <form class="flex items-center gap-2" onsubmit={find}>
      <input
        class="w-56"
        aria-label="Another person"
        placeholder="Check someone by identifier"
        bind:value={search}
      />
      <button class="quiet" disabled={search.trim() === ""}>Why?</button>
      {#if nobody}<span class="small text-(--alarm)" role="alert">No person has this identifier.</span>{/if}
    </form>
  </div>
  {#if asked}
    <div class="my-3 border-l-2 border-(--accent) pl-4">
      <Why person={asked} {definition} />
      <button class="quiet mt-1" onclick={() => ask(null)}>Close</button>
    </div>
  {/if}
  {#if sample.data}
    {#if sample.data.sample.length}
      <div class="small mb-1 flex min-h-8 flex-wrap items-center gap-x-4 gap-y-1">
        <PeopleColumns
          {columns}
          change={(next) =>
            address.go(address.with({ columns: next.length ? JSON.stringify(next) : null }), {
              replace: true,
            })}
        />
        {#if chosen.length}<PickedPeople bind:chosen />{/if}
      </div>
      <PeopleTable rows={sample.data.sample} {columns} choosing={session.may("analyst")} bind:chosen>
        {#snippet heads()}<th>Why they match</th><th><span class="sr-only">Actions</span></th>{/snippet}
        {#snippet cells(row)}
          <td class="soft small min-w-72 leading-6">{row.facts.join(" · ")}</td>
          <td class="number"
            ><button
              class="quiet min-h-0! py-0!"
              aria-label="Why {row.identifiers[0]?.value ?? row.id}"
              onclick={() => ask(row.id)}>why</button
            ></td
          >
        {/snippet}
      </PeopleTable>
    {:else}<p class="soft">No people match.</p>{/if}
  {:else}
    <!-- As high as the rows will be, so that what stands below keeps its place in the window. -->
    <div class={sample.problem ? "" : "min-h-[44rem]"}>
      <Waiting problem={sample.problem} retry={() => sample.reload()} />
    </div>
  {/if}
</section>
