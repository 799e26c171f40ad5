<script lang="ts">
  import { address } from "../lib/address.svelte";
  import { answer, api } from "../lib/api/client";
  import { day, number } from "../lib/format";
  import { Live } from "../lib/live.svelte";
  import { workspace } from "../lib/workspace.svelte";
  import Waiting from "../ui/Waiting.svelte";

  /** The audiences a person is in and since when, and those she is out of; each leads to why. */
  let { person }: { person: number } = $props();

  const audiences = new Live((signal) => {
    const params = { path: { id: person }, query: { as_of: workspace.asOf } };
    return answer(api.GET("/people/{id}/audiences", { params, signal }));
  });
  const inside = $derived(audiences.data?.audiences.filter((row) => row.member) ?? []);
  const outside = $derived(audiences.data?.audiences.filter((row) => row.member === false) ?? []);

  function since(audience: number) {
    const params = { path: { id: person, audience }, query: { as_of: workspace.asOf } };
    return answer(api.GET("/people/{id}/audiences/{audience}", { params }));
  }

  function why(audience: number): string {
    return address.to(`/audiences/${audience}`, { why: String(person) });
  }
</script>

<section class="mt-8" aria-labelledby="audiences-title" data-testid="person-audiences">
  <h2 id="audiences-title">Audiences</h2>
  {#if audiences.data}
    {#if audiences.data.audiences.length === 0}<p class="soft">No audiences yet.</p>
    {:else if inside.length === 0}<p class="soft">
        Not in any of the {number(audiences.data.audiences.length)} audiences.
      </p>{/if}
    <ul>
      {#each inside as row (row.id)}
        <li class="border-b border-(--rule) py-1">
          <a href={why(row.id)}>{row.name}</a>
          <span class="soft small float-right">
            {#await since(row.id)}…{:then found}{found.since
                ? `since ${day(found.since)}`
                : `for more than ${found.looked_back_days} days`}{:catch}–{/await}
          </span>
        </li>
      {/each}
    </ul>
    {#if outside.length}
      <details class="mt-2">
        <summary class="soft small cursor-pointer">Not in {number(outside.length)} audiences</summary>
        <ul>
          {#each outside as row (row.id)}<li class="py-0.5"><a href={why(row.id)}>{row.name}</a></li>{/each}
        </ul>
      </details>
    {/if}
  {:else}
    <Waiting problem={audiences.problem} retry={() => audiences.reload()} />
  {/if}
</section>
