<script lang="ts">
  import { address } from "../lib/address.svelte";
  import { answer, api } from "../lib/api/client";
  import { number } from "../lib/format";
  import { Live } from "../lib/live.svelte";
  import { workspace } from "../lib/workspace.svelte";
  import StateMark from "../lifecycle/StateMark.svelte";
  import Waiting from "../ui/Waiting.svelte";
  import Why from "./Why.svelte";

  /** A few members with the facts that make them members, and anybody else who is asked for. */
  let { definition }: { definition: Record<string, unknown> } = $props();

  const sample = new Live((signal) => {
    return answer(api.POST("/audiences/sample", { body: { definition, ...workspace.dates }, signal }));
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
    <h2 id="sample-title">A few of them, and why</h2>
    <form class="flex items-center gap-2" onsubmit={find}>
      <input
        class="w-56"
        aria-label="Somebody else"
        placeholder="or somebody else, by identifier"
        bind:value={search}
      />
      <button class="quiet" disabled={search.trim() === ""}>Why?</button>
      {#if nobody}<span class="small text-(--alarm)" role="alert">Nobody is known by that.</span>{/if}
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
      <div class="overflow-x-auto">
        <table class="figures">
          <thead>
            <tr
              ><th>Person</th><th>State</th><th class="number">Inactive days</th><th>What makes them fit</th
              ><th><span class="sr-only">Actions</span></th></tr
            >
          </thead>
          <tbody>
            {#each sample.data.sample as row (row.id)}
              <tr>
                <td
                  ><a class="font-semibold" href={address.to(`/people/${row.id}`)}
                    >{row.identifiers[0]?.value ?? row.id}</a
                  ></td
                >
                <td><StateMark state={row.state} reactivated={row.reactivated} /></td>
                <td class="number">{row.inactive_days === null ? "–" : number(row.inactive_days)}</td>
                <td class="soft small leading-6">{row.facts.join(" · ")}</td>
                <td class="number"
                  ><button
                    class="quiet min-h-0! py-0!"
                    aria-label="Why {row.identifiers[0]?.value ?? row.id}"
                    onclick={() => ask(row.id)}>why</button
                  ></td
                >
              </tr>
            {/each}
          </tbody>
        </table>
      </div>
    {:else}<p class="soft">Nobody fits.</p>{/if}
  {:else}
    <Waiting problem={sample.problem} retry={() => sample.reload()} />
  {/if}
</section>
