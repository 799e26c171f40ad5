<script lang="ts">
  import { answer, api, problemOf, type Problem, type Schemas } from "../lib/api/client";
  import { moment, number, plural } from "../lib/format";
  import { workspace } from "../lib/workspace.svelte";
  import ProgressBar from "../ui/ProgressBar.svelte";
  import Waiting from "../ui/Waiting.svelte";
  import { session } from "../lib/session.svelte";

  /** How many people of a run a destination has received, and what can be done about the rest. */
  let { run, changed }: { run: Schemas["Run"]; changed: () => Promise<void> } = $props();

  let problem = $state<Problem | null>(null);
  let working = $state(false);
  const push = $derived(run.push!);
  const all = $derived(push.taken + push.refused + push.waiting);
  const ended = $derived(["done", "failed", "cancelled"].includes(run.state));

  async function attempt(path: "/runs/{id}/resume" | "/runs/{id}/retry-refused") {
    working = true;
    problem = null;
    try {
      await answer(api.POST(path, { params: { path: { id: run.id } } }));
      await changed();
    } catch (error) {
      problem = problemOf(error);
    }
    working = false;
  }
</script>

<div data-testid="push" aria-live="polite">
  {#if push.waiting}
    <ProgressBar label="Accepted by the destination" percent={(100 * push.taken) / all} width="max-w-60" />
  {/if}
  <p class="small leading-5 text-(--ink)">
    {number(push.taken)} of {number(all)} accepted by the destination{push.refused
      ? `, ${number(push.refused)} rejected`
      : ""}{push.waiting ? `, ${number(push.waiting)} waiting` : ""}; {plural(
      push.messages,
      "message",
    )}{run.rows_per_second ? `, ${number(run.rows_per_second)} people a second` : ""}.
    {#if push.error && run.state === "running"}
      <span class="text-(--alarm)">{push.error}</span>
      {#if push.next_attempt_at}Next attempt at {moment(
          push.next_attempt_at,
          workspace.info!.time_zone,
        )}.{/if}
    {/if}
  </p>
  {#if problem}<Waiting {problem} />{/if}
  {#if !session.may("analyst")}<!-- Nothing can be done about it. -->
  {:else if push.half_way}
    <button class="act mt-1" disabled={working} onclick={() => attempt("/runs/{id}/resume")}
      >Send the remaining {number(push.waiting)}</button
    >
  {:else if ended && push.refused}
    <button class="quiet mt-1" disabled={working} onclick={() => attempt("/runs/{id}/retry-refused")}
      >Retry {plural(push.refused, "rejected person", "rejected people")}</button
    >
  {/if}
</div>
