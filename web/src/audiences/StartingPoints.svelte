<script lang="ts">
  import { address } from "../lib/address.svelte";
  import { answer, api } from "../lib/api/client";
  import { number } from "../lib/format";
  import { Live } from "../lib/live.svelte";
  import { workspace } from "../lib/workspace.svelte";
  import Waiting from "../ui/Waiting.svelte";

  /** Ready definitions that fit the data, each opened as an ordinary sentence. */
  const points = new Live((signal) => {
    return answer(api.GET("/audiences/starting-points", { params: { query: workspace.dates }, signal }));
  });
</script>

<section class="mt-10" aria-labelledby="starting-title" data-testid="starting-points">
  <h2 id="starting-title">Suggested audiences</h2>
  {#if points.data}
    <ul class="mt-2 grid gap-x-10 md:grid-cols-2">
      {#each points.data.starting_points as point (point.name)}
        <li class="flex items-baseline gap-4 border-b border-(--rule) py-2">
          <span class="w-14 shrink-0 text-right font-semibold">{number(point.size)}</span>
          <span>
            <a
              class="font-semibold"
              href={address.to("/audiences/new", {
                definition: JSON.stringify(point.definition),
                name: point.name,
              })}>{point.name}</a
            >
            <span class="soft block font-serif text-[0.95rem] leading-6">{point.sentence}</span>
          </span>
        </li>
      {:else}
        <li class="soft">No suggestions yet.</li>
      {/each}
    </ul>
  {:else}
    <Waiting problem={points.problem} retry={() => points.reload()} />
  {/if}
</section>
