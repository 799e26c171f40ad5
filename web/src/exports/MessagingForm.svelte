<script lang="ts">
  import { untrack } from "svelte";
  import { answer, api, problemOf, type Problem, type Schemas } from "../lib/api/client";
  import { Form } from "../lib/form.svelte";
  import { said } from "../lib/toasts.svelte";
  import { workspace } from "../lib/workspace.svelte";
  import Waiting from "../ui/Waiting.svelte";
  import Reserved from "../ui/Reserved.svelte";

  /** Which event types and properties stand for messages. */
  let { messaging, kept }: { messaging: Schemas["Messaging"]; kept: () => Promise<void> } = $props();

  const NAMES = [
    ["received", "Received"],
    ["bounced", "Bounced"],
    ["opened", "Opened"],
    ["clicked", "Clicked"],
    ["unsubscribed", "Unsubscribed"],
  ] as const;
  const PROPERTIES = [
    ["campaign", "Property: campaign"],
    ["channel", "Property: channel"],
  ] as const;
  const uid = $props.id();
  const form = untrack(() => new Form("messaging", $state.snapshot(messaging)));
  let problem = $state<Problem | null>(null);
  let working = $state(false);

  async function keep(event: SubmitEvent) {
    event.preventDefault();
    working = true;
    problem = null;
    try {
      await answer(api.PUT("/campaigns/messaging", { body: form.fields }));
      form.end($state.snapshot(form.fields));
      await workspace.refresh();
      await kept();
      said("Campaign results recomputed");
    } catch (error) {
      problem = problemOf(error);
    }
    working = false;
  }
</script>

<Reserved role="administrator" what=""
  ><details class="mt-10" open={form.restored}>
    <summary class="cursor-pointer">Message event types</summary>
    <form class="mt-2 flex flex-wrap items-end gap-3" onsubmit={keep}>
      {#each NAMES as [key, text] (key)}
        <label class="field">{text} <input required list="{uid}-types" bind:value={form.fields[key]} /></label
        >
      {/each}
      {#each PROPERTIES as [key, text] (key)}
        <label class="field">{text} <input required bind:value={form.fields[key]} /></label>
      {/each}
      <datalist id="{uid}-types">
        {#each workspace.catalogue?.event_types ?? [] as { name } (name)}<option value={name}></option>{/each}
      </datalist>
      <button class="quiet" disabled={working}>{working ? "Recomputing…" : "Save"}</button>
    </form>
    {#if problem}<Waiting {problem} />{/if}
  </details></Reserved
>
