<script lang="ts">
  import DateField from "../ui/DateField.svelte";
  import { address } from "../lib/address.svelte";
  import { answer, api, type Schemas } from "../lib/api/client";
  import { addDays, day, number } from "../lib/format";
  import { Live } from "../lib/live.svelte";
  import { workspace } from "../lib/workspace.svelte";
  import PeopleTable from "../people/PeopleTable.svelte";
  import Waiting from "../ui/Waiting.svelte";

  /** Who entered and who left since an earlier date, and which condition turned. */
  let { definition, id }: { definition: Record<string, unknown>; id: number | null } = $props();

  const from = $derived.by(() => {
    const chosen = address.get("since");
    return chosen && chosen < workspace.asOf ? chosen : addDays(workspace.asOf, -30);
  });
  const moved = new Live((signal) => {
    return answer(
      api.POST("/audiences/movement", { body: { definition, from, ...workspace.dates }, signal }),
    );
  });
  let shown = $state<"entered" | "left" | null>(null);

  const SIDES = [
    ["entered", "entered"],
    ["left", "left"],
  ] as const;

  /** Where the audience is kept, those who moved are an audience too. */
  function audience(side: "entered" | "left"): string {
    const now = { audience: { id } };
    const then = { audience: { id, on: from } };
    const all = side === "entered" ? [now, { not: then }] : [then, { not: now }];
    return address.to("/audiences/new", { definition: JSON.stringify({ all }) });
  }

  function turned(side: Schemas["Moved"]) {
    return side.conditions.filter((condition) => condition.count > 0).sort((a, b) => b.count - a.count);
  }
</script>

<section class="mt-10" aria-labelledby="time-title" data-testid="over-time">
  <div class="flex flex-wrap items-baseline gap-x-6 gap-y-1">
    <h2 id="time-title">People who entered and left</h2>
    <label class="flex items-center gap-2"
      >Since the end of
      <DateField
        label="Since the end of"
        value={from}
        most={addDays(workspace.asOf, -1)}
        change={(since) => address.go(address.with({ since: since || null }), { replace: true })}
      /></label
    >
  </div>
  {#if moved.data}
    {@const found = moved.data}
    <p class="says mt-1 text-[1.05rem]!" data-testid="moved">
      From {number(found.before)} on {day(found.from)} to {number(found.after)} on {day(found.to)}:
      {number(found.entered.count)} entered, {number(found.left.count)} left, {number(found.stayed)} stayed.
    </p>
    <div class="mt-2 grid gap-x-12 gap-y-4 md:grid-cols-2">
      {#each SIDES as [side, name] (side)}
        <div>
          <p>
            <strong>{number(found[side].count)}</strong>
            {name}{#if found[side].newly_seen}, {number(found[side].newly_seen)} of them newly known{/if}
            {#if found[side].count}
              <button
                class="quiet ml-2 min-h-0!"
                aria-expanded={shown === side}
                onclick={() => (shown = shown === side ? null : side)}>Show people</button
              >
              {#if id !== null}<a class="ml-2" href={audience(side)}>Create audience</a>{/if}
            {/if}
          </p>
          <ul class="small">
            {#each turned(found[side]) as condition (condition.place)}
              <li>
                <span class="font-semibold">{number(condition.count)}</span>
                <span class="soft">because of</span>
                <span class="font-serif">{condition.said}</span>
              </li>
            {/each}
          </ul>
        </div>
      {/each}
    </div>
    {#if shown}
      <p class="soft small mt-3">
        Showing {number(found[shown].people.length)} of {number(found[shown].count)} who {shown}
      </p>
      <PeopleTable rows={found[shown].people} />
    {/if}
  {:else}
    <Waiting problem={moved.problem} retry={() => moved.reload()} />
  {/if}
</section>
