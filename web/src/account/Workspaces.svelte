<script lang="ts">
  import { answer, api, type Schemas } from "../lib/api/client";
  import { base } from "../lib/base";
  import { Form } from "../lib/form.svelte";
  import { Kept } from "../lib/kept.svelte";
  import { moment } from "../lib/format";
  import { session } from "../lib/session.svelte";
  import { workspace } from "../lib/workspace.svelte";
  import Waiting from "../ui/Waiting.svelte";
  import CopyDefinitions from "./CopyDefinitions.svelte";

  /** The workspaces of the installation, and definitions from another one. */
  type Row = Schemas["InstalledWorkspace"];
  const list = base ? null : new Kept((signal) => answer(api.GET("/workspaces", { signal })));
  const form = new Form("workspace", { name: "", title: "" });
  /** The one that is going to be removed, and its name as it has been typed. */
  let removing = $state<{ id: number; typed: string } | null>(null);
  const busy = $derived(list?.data?.workspaces.some((row) => row.state.startsWith("being")) ?? false);

  $effect(() => {
    if (!busy) return;
    const timer = setInterval(() => {
      void list?.reload();
      void session.load();
    }, 2000);
    return () => clearInterval(timer);
  });

  const make = (event: SubmitEvent) => {
    event.preventDefault();
    void list?.attempt(async () => {
      await answer(api.POST("/workspaces", { body: form.fields }));
      form.end();
    });
  };

  const change = (row: Row, body: { title?: string; archived?: boolean }) =>
    list?.attempt(async () => {
      await answer(api.PUT("/workspaces/{id}", { params: { path: { id: row.id } }, body }));
      await session.load();
    });

  const remove = (event: SubmitEvent, row: Row) => {
    event.preventDefault();
    void list?.attempt(async () => {
      const params = { path: { id: row.id }, query: { name: removing!.typed } };
      await answer(api.DELETE("/workspaces/{id}", { params }));
      removing = null;
    });
  };
</script>

{#if list}
  <p class="mt-4 max-w-3xl">
    Each workspace has its own people, audiences, exports, sources and settings, for example one per brand or
    one for testing. Users are shared; roles are set per workspace.
  </p>
  {#if list.refused}<div class="mt-3"><Waiting problem={list.refused} /></div>{/if}
  {#if list.data}
    {#if list.data.workspaces.length}
      <div class="mt-4 overflow-x-auto">
        <table class="figures w-auto!" data-testid="installed">
          <thead>
            <tr>
              <th class="pr-8!">Workspace</th><th class="pr-8!">Address</th><th class="pr-8!">State</th>
              <th class="pr-8!">Created</th><th><span class="sr-only">Actions</span></th>
            </tr>
          </thead>
          <tbody>
            {#each list.data.workspaces as row (row.id)}
              <tr>
                <td class="pr-8!">{row.title}</td>
                <td class="pr-8!"
                  >{#if row.state === "open"}<a href="{row.base}/" target="_self">{row.base}</a
                    >{:else}{row.base}{/if}</td
                >
                <td class="pr-8!"
                  >{row.state}{#if row.problem}<span class="block max-w-72 text-(--alarm)"
                      >Error: {row.problem}</span
                    >{/if}</td
                >
                <td class="soft pr-8! whitespace-nowrap"
                  >by {row.made_by}, {moment(row.created_at, workspace.info?.time_zone ?? "UTC")}</td
                >
                <td class="whitespace-nowrap">
                  {#if row.state === "open"}
                    <button
                      class="quiet"
                      aria-label="Archive {row.title}"
                      title="Keeps all data, but stops access, imports and exports until you reopen it"
                      onclick={() => change(row, { archived: true })}>Archive</button
                    >
                  {:else if row.state === "archived"}
                    <button
                      class="quiet"
                      aria-label="Open {row.title} again"
                      onclick={() => change(row, { archived: false })}>Reopen</button
                    >
                    <button
                      class="quiet"
                      aria-label="Remove {row.title}"
                      onclick={() => (removing = { id: row.id, typed: "" })}>Delete…</button
                    >
                  {/if}
                </td>
              </tr>
              {#if removing?.id === row.id}
                <tr>
                  <td colspan="5">
                    <form
                      class="flex flex-wrap items-end gap-3 py-2"
                      onsubmit={(event) => remove(event, row)}
                    >
                      <label class="field"
                        >This permanently deletes all people, events, audiences and exports of {row.title}.
                        Type {row.name} to confirm
                        <input required bind:value={removing.typed} autocomplete="off" /></label
                      >
                      <button class="quiet" disabled={removing.typed !== row.name}>Delete workspace</button>
                      <button type="button" class="quiet" onclick={() => (removing = null)}>Cancel</button>
                    </form>
                  </td>
                </tr>
              {/if}
            {/each}
          </tbody>
        </table>
      </div>
    {:else}<p class="soft mt-4">No other workspaces yet.</p>{/if}
    <form class="mt-4 flex flex-wrap items-end gap-3" onsubmit={make}>
      <label class="field"
        >New workspace <input maxlength="100" placeholder="Shop" bind:value={form.fields.title} /></label
      >
      <label class="field"
        >at the address /w/<input
          required
          maxlength="30"
          pattern="[a-z][a-z0-9\-]+"
          title="2 to 30 lower-case letters, digits and hyphens, beginning with a letter"
          placeholder="shop"
          bind:value={form.fields.name}
        /></label
      >
      <button class="quiet">Create workspace</button>
    </form>
  {:else}<Waiting problem={list.problem} retry={() => list.reload()} />{/if}
{/if}
<CopyDefinitions />
