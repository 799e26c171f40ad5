<script lang="ts">
  import { address } from "../../lib/address.svelte";
  import { answer, api, problemOf, type Problem } from "../../lib/api/client";
  import { Form } from "../../lib/form.svelte";
  import { list, moment } from "../../lib/format";
  import { isWhole } from "../../lib/parameters";
  import { Resource } from "../../lib/resource.svelte";
  import { session } from "../../lib/session.svelte";
  import { workspace } from "../../lib/workspace.svelte";
  import Waiting from "../../ui/Waiting.svelte";
  import PageView from "./PageView.svelte";
  import { PAGES } from "./pages";

  /** The notebook: all its pages, or the one whose number the address has. */
  let { id }: { id: string } = $props();

  const all = new Resource((signal) => (id ? Promise.resolve(null) : answer(api.GET("/pages", { signal }))));
  const form = new Form("page", { name: "" });
  let refused = $state<Problem | null>(null);
  let busy = $state(false);

  async function create() {
    if (busy) return;
    busy = true;
    refused = null;
    try {
      const made = await answer(api.POST("/pages", { body: { name: form.fields.name.trim() } }));
      form.end();
      address.go(address.to(`${PAGES}/${made.id}`));
    } catch (error) {
      refused = problemOf(error);
    }
    busy = false;
  }
</script>

{#if id && isWhole(id)}
  {#key id}<PageView id={Number(id)} />{/key}
{:else if id}
  <p class="mt-4" role="status">Report not found. <a href={address.to(PAGES)}>All reports</a></p>
{:else}
  <p class="says mt-4">
    A report combines saved analyses, audiences and text. Figures are always up to date.
  </p>
  {#if session.may("analyst")}
    <form
      class="mt-4 flex flex-wrap items-end gap-3"
      aria-label="New report"
      onsubmit={(event) => {
        event.preventDefault();
        void create();
      }}
    >
      <label class="field"
        >Name <input class="w-72" maxlength="255" required bind:value={form.fields.name} /></label
      >
      <button class="act" disabled={busy || !form.fields.name.trim()}>Create report</button>
      {#if refused}<span role="alert" class="text-(--alarm)">{refused.detail}</span>{/if}
    </form>
  {/if}
  {#if all.data}
    <ul class="mt-5 max-w-[46rem]" data-testid="pages">
      {#each all.data.pages as page (page.id)}
        <li class="border-b border-(--rule) py-2">
          <a class="says" href={address.to(`${PAGES}/${page.id}`)}>{page.name}</a>
          <p class="soft small">
            {list(
              [
                page.private ? "private" : (page.owner ?? ""),
                `changed ${moment(page.updated_at, workspace.info?.time_zone ?? "UTC")}`,
                page.next_run_at ? `sent automatically to ${page.destination}` : "",
              ].filter(Boolean),
            )}
          </p>
        </li>
      {:else}<li class="soft">No reports yet.</li>{/each}
    </ul>
  {:else}<Waiting of={all} />{/if}
{/if}
