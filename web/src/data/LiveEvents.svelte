<script lang="ts">
  import { apiAddress } from "../lib/base";
  import { address } from "../lib/address.svelte";
  import { answer, api, type Schemas } from "../lib/api/client";
  import LiveEventRow from "./LiveEventRow.svelte";
  import Lateness from "./Lateness.svelte";
  import Waiting from "../ui/Waiting.svelte";
  import { plural } from "../lib/format";
  import { Resource } from "../lib/resource.svelte";
  import { workspace } from "../lib/workspace.svelte";
  import { FACTS, receivedName } from "./received";

  const SHOWN = 200;
  const FILTERS = ["source", "type", "identifier", "outcome"] as const;

  type LiveEvent = Schemas["LiveEvent"];
  let rows = $state.raw<LiveEvent[]>([]);
  let waiting = $state.raw<LiveEvent[]>([]);
  let paused = $state(false);
  let live = $state(false);

  const filters = $derived(
    Object.fromEntries(FILTERS.flatMap((name) => (address.get(name) ? [[name, address.get(name)!]] : []))),
  );
  const types = $derived.by(() => {
    const named = (workspace.catalogue?.event_types ?? []).map(({ name }) => name);
    const asked = address.get("type");
    return [...new Set([...named, ...Object.keys(FACTS), ...(asked ? [asked] : [])])]
      .map((type): [string, string] => [type, receivedName(type)])
      .sort(([, one], [, other]) => one.localeCompare(other));
  });
  const known = new Resource((signal) => answer(api.GET("/sources", { signal })));
  const page = new Resource(async (signal) => {
    const query = filters as { outcome?: "stored" };
    const data = await answer(api.GET("/live-events", { params: { query }, signal }));
    rows = data.rows;
    waiting = [];
    return { cursor: data.cursor, filters };
  });

  // Goes on from where the page was read; the browser comes back by itself after a break, from where it was.
  $effect(() => {
    if (!page.data) return;
    const query = new URLSearchParams({ ...page.data.filters, after: page.data.cursor });
    const stream = new EventSource(apiAddress(`/live-events/live?${query}`));
    stream.onopen = () => (live = true);
    stream.onerror = () => (live = false);
    stream.onmessage = (message) => arrived(JSON.parse(message.data) as LiveEvent[]);
    return () => stream.close();
  });

  function arrived(fresh: LiveEvent[]) {
    // A connection that broke off may tell something again.
    const shown = new Set([...rows, ...waiting].map((row) => row.key));
    const news = fresh.filter((row) => !shown.has(row.key));
    if (paused) waiting = [...news, ...waiting].slice(0, SHOWN);
    else rows = [...news, ...rows].slice(0, SHOWN);
  }

  function resume() {
    rows = [...waiting, ...rows].slice(0, SHOWN);
    waiting = [];
    paused = false;
  }

  function filter(name: (typeof FILTERS)[number], value: string) {
    address.go(address.with({ [name]: value.trim() || null }), { replace: true });
  }
</script>

{#if workspace.info?.ready}<div class="min-h-72"><Lateness /></div>{/if}

<div class="mt-8 flex flex-wrap items-center gap-x-5 gap-y-2 border-t border-(--rule-strong) pt-3">
  <h2>Live events</h2>
  <span class="soft small" role="status" data-testid="live"
    >{live ? (paused ? "paused" : "live") : "connecting…"}</span
  >
  {#if paused}
    <button class="act" onclick={resume}
      >Resume{waiting.length ? ` (${plural(waiting.length, "event")} waiting)` : ""}</button
    >
  {:else}
    <button class="quiet" onclick={() => (paused = true)}>Pause</button>
  {/if}
  <div class="ml-auto flex flex-wrap gap-2">
    <select
      aria-label="Source"
      value={address.get("source") ?? ""}
      onchange={(event) => filter("source", event.currentTarget.value)}
    >
      <option value="">all sources</option>
      {#each known.data?.sources ?? [] as source (source.id)}<option value={source.name}>{source.name}</option
        >{/each}
    </select>
    <select
      class="max-w-48"
      aria-label="Event type"
      value={address.get("type") ?? ""}
      onchange={(event) => filter("type", event.currentTarget.value)}
    >
      <option value="">all event types</option>
      {#each types as [type, name] (type)}<option value={type} title={type}>{name}</option>{/each}
    </select>
    <input
      class="w-44"
      aria-label="Identifier"
      placeholder="customer:1042"
      value={address.get("identifier") ?? ""}
      onchange={(event) => filter("identifier", event.currentTarget.value)}
    />
    <select
      aria-label="Outcome"
      value={address.get("outcome") ?? ""}
      onchange={(event) => filter("outcome", event.currentTarget.value)}
    >
      <option value="">stored and rejected</option>
      <option value="stored">stored</option>
      <option value="refused">rejected</option>
    </select>
  </div>
</div>
{#if page.data}
  <div class="overflow-x-auto">
    <table class="figures max-sm:block" data-testid="live-events">
      <thead class="max-sm:sr-only">
        <tr><th>Received</th><th>Source</th><th>What</th><th>Person</th><th>Properties</th></tr>
      </thead>
      <tbody class="max-sm:block">
        {#each rows as row (row.key)}<LiveEventRow {row} />{/each}
      </tbody>
    </table>
  </div>
  {#if rows.length === 0}
    <p class="soft mt-3">
      {Object.keys(filters).length ? "No events match." : "No events received yet."} New events appear here automatically.
    </p>
  {/if}
{:else}
  <Waiting problem={page.problem} retry={() => page.reload()} />
{/if}
