<script lang="ts">
  import { address } from "../lib/address.svelte";
  import { answer, api, type Schemas } from "../lib/api/client";
  import CompareButton from "./CompareButton.svelte";
  import Sharing, { belongs } from "../ui/Sharing.svelte";
  import StartingPoints from "./StartingPoints.svelte";
  import Waiting from "../ui/Waiting.svelte";
  import Whose from "../ui/Whose.svelte";
  import { rooted } from "./editor/editing";
  import { moment, number } from "../lib/format";
  import { Removing } from "../lib/removing.svelte";
  import { Live } from "../lib/live.svelte";
  import { session } from "../lib/session.svelte";
  import { said } from "../lib/toasts.svelte";
  import { workspace } from "../lib/workspace.svelte";

  type Row = Schemas["AudienceRow"];
  const ORDERS: Record<string, [string, (a: Row, b: Row) => number]> = {
    changed: ["Recently changed", (a, b) => b.updated_at.localeCompare(a.updated_at)],
    size: ["Largest", (a, b) => (b.size ?? -1) - (a.size ?? -1)],
    used: ["Most used", (a, b) => b.uses - a.uses],
    name: ["Name", (a, b) => a.name.localeCompare(b.name)],
  };

  const list = new Live((signal) => {
    return answer(api.GET("/audiences", { params: { query: workspace.dates }, signal }));
  });
  const removing = new Removing<Row>(() => list.reload());
  let search = $state(address.get("search") ?? "");
  const order = $derived(address.get("order") ?? "changed");
  const folder = $derived(address.get("folder"));
  const folders = $derived(
    [...new Set(list.data?.audiences.map((row) => row.folder).filter(Boolean))].sort(),
  );
  const shown = $derived.by(() => {
    const wanted = search.trim().toLowerCase();
    const found = (list.data?.audiences ?? []).filter(
      (row) =>
        (!folder || row.folder === folder) &&
        belongs(row, address.get("whose")) &&
        [row.name, row.sentence, row.note, row.folder].some((text) => text.toLowerCase().includes(wanted)),
    );
    return found.sort((ORDERS[order] ?? ORDERS.changed!)[1]);
  });

  const rows = $derived(removing.placed(shown));

  function remove(row: Row) {
    const params = { path: { id: row.id } };
    return removing.remove(
      row,
      shown,
      () => answer(api.DELETE("/audiences/{id}", { params })),
      () => answer(api.POST("/audiences/{id}/restore", { params })),
    );
  }

  /** A file with a definition opens as a draft. */
  async function bring(files: FileList | null) {
    const file = files?.[0];
    if (!file) return;
    try {
      const definition = JSON.stringify(rooted(JSON.parse(await file.text())));
      address.go(address.to("/audiences/new", { definition, name: file.name.replace(/\.json$/i, "") }));
    } catch {
      said(`“${file.name}” does not contain an audience definition`);
    }
  }
</script>

<div class="flex flex-wrap items-center gap-x-4 gap-y-2">
  <h1>Audiences</h1>
  {#if session.may("analyst")}<a class="act" href={address.to("/audiences/new")}>New audience</a>{/if}
  <label class="quiet">
    Import from file…
    <input
      type="file"
      class="sr-only"
      accept=".json,application/json"
      aria-label="Definition file"
      onchange={(event) => bring(event.currentTarget.files)}
    />
  </label>
  {#if list.data?.audiences.length}
    <input
      type="search"
      class="ml-auto w-56"
      aria-label="Find an audience"
      placeholder="Find by name, sentence or note"
      bind:value={search}
      oninput={() => address.go(address.with({ search: search.trim() || null }), { replace: true })}
    />
    <Whose />
    <select
      aria-label="Order"
      value={order}
      onchange={(event) =>
        address.go(
          address.with({ order: event.currentTarget.value === "changed" ? null : event.currentTarget.value }),
        )}
    >
      {#each Object.entries(ORDERS) as [key, [text]] (key)}<option value={key}>{text}</option>{/each}
    </select>
  {/if}
</div>
{#if folders.length}
  <div class="mt-3 flex flex-wrap gap-2" role="group" aria-label="Folder">
    <a class="quiet" aria-current={folder ? undefined : "true"} href={address.with({ folder: null })}>all</a>
    {#each folders as name (name)}
      <a
        class="quiet"
        aria-current={folder === name ? "true" : undefined}
        href={address.with({ folder: name })}>{name}</a
      >
    {/each}
  </div>
{/if}
{#if removing.problem}<Waiting problem={removing.problem} />{/if}
{#if list.data}
  {#if rows.length === 0 && list.data.audiences.length === 0}
    <p class="says mt-6">No audiences yet.</p>
    <p class="mt-2 max-w-xl">
      An audience is a saved definition, such as “People who ended a ride at least 3 times in the last 30
      days”. Members are updated automatically.
    </p>
  {:else if rows.length === 0}
    <p class="soft mt-6">No audiences match.</p>
  {:else}
    <div class="mt-4 overflow-x-auto">
      <table class="figures">
        <thead>
          <tr>
            <th>Audience</th>
            <th class="number">People</th>
            <th class="number">Used by</th>
            <th class="number">Last changed</th>
            <th><span class="sr-only">Actions</span></th>
          </tr>
        </thead>
        <tbody>
          {#each rows as { row, gone } (row.id)}
            <tr inert={gone} class={gone ? "opacity-50" : ""}>
              <td class="min-w-64 py-2!">
                {#if gone}<span class="font-semibold">{row.name}</span>{:else}<a
                    class="font-semibold"
                    href={address.to(`/audiences/${row.id}`)}>{row.name}</a
                  >{/if}
                {#if row.folder}<span class="soft small ml-2">in {row.folder}</span>{/if}
                <span class="ml-2"><Sharing place="audiences" {row} changed={() => list.reload()} /></span>
                <p class="soft font-serif text-[0.95rem] leading-6">{row.sentence}</p>
                {#if row.note}<p class="small">{row.note}</p>{/if}
                {#if row.fault}<p class="small text-(--alarm)">{row.fault}</p>{/if}
              </td>
              <td class="number py-2! text-[1.05rem] font-semibold">
                {#if row.size === null}–{:else}
                  <a href={address.to("/people", { audience: String(row.id) })}>{number(row.size)}</a>
                {/if}
              </td>
              <td class="number py-2!">{row.uses || "–"}</td>
              <td class="number soft small py-2!">{moment(row.updated_at, workspace.info!.time_zone)}</td>
              <td class="number py-2!">
                <CompareButton id={row.id} name={row.name} />
                {#if session.may("analyst")}
                  <button class="quiet" aria-label="Delete {row.name}" onclick={() => remove(row)}
                    >{gone ? "Deleted" : "Delete"}</button
                  >
                {/if}
              </td>
            </tr>
          {/each}
        </tbody>
      </table>
    </div>
  {/if}
  <StartingPoints />
{:else}
  <Waiting problem={list.problem} retry={() => list.reload()} />
{/if}
