<script lang="ts">
  import { frequentTypes } from "../audiences/editor/values";
  import { address } from "../lib/address.svelte";
  import { Asked } from "../lib/asked.svelte";
  import { addDays, number, percent } from "../lib/format";
  import { eventDone, eventType } from "../lib/names";
  import { workspace } from "../lib/workspace.svelte";
  import SmallPicture from "./SmallPicture.svelte";

  /**
   * Questions to start with, fitted to what there is: about the events most people do, and about buying where there is
   * something with an amount. Each has a small picture of its answer.
   */
  const DAYS = 30;
  const from = $derived(addDays(workspace.asOf, 1 - DAYS));
  const types = $derived(frequentTypes().filter((name) => !eventType(name)?.not_activity));
  const most = $derived(types[0] ?? null);
  /** The rarest thing with an amount of money, as buying is, or the rarest at all. */
  const rare = $derived(
    types.findLast((name) => eventType(name)?.properties.some(({ quantity }) => quantity === "money")) ??
      types.at(-1) ??
      null,
  );

  const ranking = new Asked("ranking", () => (most ? { from } : null));
  const before = new Asked("next-events", () =>
    rare ? { event: { event: rare }, direction: "before" as const, within: { days: 7 }, depth: 1 } : null,
  );
  const often = new Asked("frequency", () => (most ? { series: [{ event: most }], from } : null));
  const trend = $derived(ranking.data?.picture.rows.find(({ event }) => event === most));
  const to = (name: string, query: Record<string, string | null>) =>
    address.to(`/analyses/${name}`, {
      ...query,
      as_of: address.get("as_of"),
      compare: address.get("compare"),
    });
</script>

{#if most && rare}
  <section>
    <h2 class="mt-4">Start here</h2>
    <ul class="mt-2 flex flex-col gap-5" data-testid="starting">
      <li>
        <a class="says" href={to("trends", { event: most, range: "180" })}
          >How many people {eventDone(most)}, by week</a
        >
        {#if trend}
          <SmallPicture kind="line" values={trend.trend} />
          <p class="soft small">{number(trend.people)} people in the last {DAYS} days</p>
        {/if}
      </li>
      <li>
        <a class="says" href={to("ranking", {})}>What people do most</a>
        {#if ranking.data}
          {@const rows = ranking.data.picture.rows.slice(0, 8)}
          <SmallPicture kind="bars" values={rows.map(({ people }) => people)} />
          <p class="soft small">
            {rows
              .slice(0, 3)
              .map(({ name }) => name)
              .join(", ")}
          </p>
        {/if}
      </li>
      <li>
        <a class="says" href={to("next-events", { event: rare, direction: "before", within: "7 days" })}
          >What people do right before they {eventDone(rare)}</a
        >
        {#if before.data}
          {@const branches = before.data.picture.branches}
          <SmallPicture kind="bars" values={branches.map(({ times }) => times)} />
          <p class="soft small">
            {#if branches[0]}{branches[0].name}: {percent(branches[0].share)}{:else}no event within 7 days{/if}
          </p>
        {/if}
      </li>
      <li>
        <a class="says" href={to("frequency", { event: most })}
          >How often people {eventDone(most)}, in the last {DAYS} days</a
        >
        {#if often.data}
          {@const line = often.data.picture.rows[0]}
          <SmallPicture kind="bars" values={line?.counts ?? []} />
          <p class="soft small">
            {line?.median === null || !line ? "no one in this period" : `median ${number(line.median)} times`}
          </p>
        {/if}
      </li>
    </ul>
  </section>
{/if}
