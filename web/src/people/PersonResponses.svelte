<script lang="ts">
  import { answer, api } from "../lib/api/client";
  import { named } from "../campaigns/campaigns";
  import { number } from "../lib/format";
  import { Resource } from "../lib/resource.svelte";
  import { workspace } from "../lib/workspace.svelte";

  /** How a person answers messages: response streaks, over all of them and by campaign. */
  let { person }: { person: number } = $props();

  const responses = new Resource((signal) => {
    const { as_of, received_by } = workspace.dates;
    const params = { path: { id: person }, query: { as_of, received_by } };
    return answer(api.GET("/people/{id}/responses", { params, signal }));
  });
</script>

{#if responses.data?.series.length}
  <section class="mt-8" aria-labelledby="responses-title" data-testid="person-responses">
    <h2 id="responses-title">Response streaks</h2>
    <table class="figures small">
      <thead>
        <tr
          ><th>Campaign</th><th class="number">Sent</th><th class="number">Responded</th><th
            class="number"
            title="consecutive messages opened or clicked">Current streak</th
          ><th class="number">Longest</th><th class="number">Mean</th></tr
        >
      </thead>
      <tbody>
        {#each responses.data.series as row, index (index)}
          <tr
            ><td class="wrap-anywhere {index ? '' : 'font-semibold'}">{index ? named(row) : "all"}</td><td
              class="number">{number(row.messages)}</td
            ><td class="number">{number(row.responded)}</td><td class="number">{row.current}</td><td
              class="number">{row.longest}</td
            ><td class="number">{row.mean.toFixed(1)}</td></tr
          >
        {/each}
      </tbody>
    </table>
  </section>
{/if}
