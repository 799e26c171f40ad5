<script lang="ts">
  import { apiAddress } from "../lib/base";
  import { address } from "../lib/address.svelte";
  import { answer, api, problemOf, type Problem, type Schemas } from "../lib/api/client";
  import { day, moment } from "../lib/format";
  import { outcomeOf } from "./exports";
  import { workspace } from "../lib/workspace.svelte";
  import Pushed from "./Pushed.svelte";
  import Waiting from "../ui/Waiting.svelte";
  import { session } from "../lib/session.svelte";

  /** Runs, newest first, with what can be done about each. */
  let {
    runs,
    named = false,
    changed,
  }: { runs: Schemas["Run"][]; named?: boolean; changed: () => Promise<void> } = $props();

  let problem = $state<Problem | null>(null);

  async function attempt(work: () => Promise<unknown>) {
    problem = null;
    try {
      await work();
      await changed();
    } catch (error) {
      problem = problemOf(error);
    }
  }
</script>

{#if problem}<Waiting {problem} />{/if}
<div class="overflow-x-auto">
  <table class="figures" data-testid="runs">
    <thead>
      <tr>
        {#if named}<th>Export</th>{/if}
        <th>As of</th><th>Audience</th><th>Outcome</th><th class="number">Duration</th><th>SHA-256</th>
        <th>Started</th><th>File</th>
      </tr>
    </thead>
    <tbody>
      {#each runs as run (run.id)}
        <tr>
          {#if named}
            <td><a class="font-semibold" href={address.to(`/exports/${run.export_id}`)}>{run.export}</a></td>
          {/if}
          <td class="whitespace-nowrap">{day(run.as_of)}</td>
          <td title={run.sentence}>{run.audience} <span class="soft small">version {run.version}</span></td>
          <td class={run.state === "failed" ? "text-(--alarm)" : ""} aria-live="polite">
            {#if run.state === "done" || run.push}
              <a href={address.to(`/exports/runs/${run.id}`)}>{outcomeOf(run)}</a>
            {:else}{outcomeOf(run)}{/if}
            {#if run.push}<Pushed {run} {changed} />{/if}
            {#if run.note}<span class="soft small block leading-5">{run.note}</span>{/if}
            {#if run.state === "waiting" && session.may("analyst")}
              <button
                class="act ml-2"
                onclick={() =>
                  attempt(() => answer(api.POST("/runs/{id}/approve", { params: { path: { id: run.id } } })))}
                >Approve and export</button
              >
            {/if}
            {#if ["queued", "waiting", "running"].includes(run.state) && !run.cancel_requested && session.may("analyst")}
              <button
                class="quiet ml-2"
                onclick={() =>
                  attempt(() => answer(api.POST("/runs/{id}/cancel", { params: { path: { id: run.id } } })))}
                >Cancel</button
              >
            {/if}
          </td>
          <td class="number soft small leading-6"
            >{run.seconds === null ? "–" : `${run.seconds.toFixed(1)} s`}{run.attempts > 1
              ? `, attempt ${run.attempts}`
              : ""}</td
          >
          <td class="soft small leading-6" title={run.sha256}
            >{run.sha256 ? `${run.sha256.slice(0, 8)}…` : "–"}</td
          >
          <td class="soft small leading-6 whitespace-nowrap"
            >{moment(run.created_at, workspace.info!.time_zone)}{run.started_by === "schedule"
              ? ", scheduled"
              : ""}</td
          >
          <td class="whitespace-nowrap">
            {#if run.file_removed_because}
              <span class="soft small" title="The file of this run was removed: {run.file_removed_because}"
                >removed</span
              >
            {:else if run.file_name && session.may("analyst")}
              <a href={apiAddress(`/runs/${run.id}/file`)} download
                >{run.file_name?.split(".").slice(1).join(".")}</a
              >
              <a class="soft small ml-2" href={apiAddress(`/runs/${run.id}/manifest`)} download>manifest</a>
            {:else}–{/if}
          </td>
        </tr>
      {/each}
    </tbody>
  </table>
</div>
