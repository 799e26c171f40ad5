<script lang="ts">
  import { answer, api, problemOf, type Problem } from "../../lib/api/client";
  import { day, moment } from "../../lib/format";
  import { session } from "../../lib/session.svelte";
  import { workspace } from "../../lib/workspace.svelte";
  import type { Page } from "./pages";

  /** Where a page has been sent, and a way to send it now. */
  let { page, reload }: { page: Page; reload: () => Promise<void> } = $props();

  const LOOK = 1500;
  const UNDER_WAY = ["queued", "running"];
  const WORDS = { queued: "queued", running: "being sent", done: "sent", failed: "failed" };
  let refused = $state<Problem | null>(null);
  let busy = $state(false);
  const underWay = $derived(page.runs.some(({ state }) => UNDER_WAY.includes(state)));

  $effect(() => {
    if (!underWay) return;
    const timer = setInterval(() => void reload(), LOOK);
    return () => clearInterval(timer);
  });

  async function send() {
    if (busy) return;
    busy = true;
    refused = null;
    try {
      const ask = { params: { path: { id: page.id } }, body: { as_of: workspace.asOf } };
      await answer(api.POST("/pages/{id}/runs", ask));
      await reload();
    } catch (error) {
      refused = problemOf(error);
    }
    busy = false;
  }
</script>

{#if page.destination || page.runs.length}
  <section class="paperless mt-10" data-testid="sendings">
    <h2>Sent</h2>
    {#if page.destination && session.may("analyst")}
      <button class="quiet mt-1" disabled={busy || underWay} onclick={send}
        >Send to {page.destination} now</button
      >
    {/if}
    {#if refused}<p role="alert" class="text-(--alarm)">{refused.detail}</p>{/if}
    <ul class="small mt-2" aria-live="polite">
      {#each page.runs as run (run.id)}
        <li>
          {moment(run.created_at, workspace.info?.time_zone ?? "UTC")}{run.started_by === "schedule"
            ? ", scheduled"
            : ""}: as of {day(run.as_of)}, {WORDS[run.state]}{#if run.file_name}, <code>{run.file_name}</code
            >{/if}{#if run.error}. <span class="text-(--alarm)">{run.error}</span>{/if}
        </li>
      {/each}
    </ul>
  </section>
{/if}
