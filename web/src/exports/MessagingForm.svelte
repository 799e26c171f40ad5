<script lang="ts">
  import { untrack } from "svelte";
  import { answer, api, problemOf, type Problem, type Schemas } from "../lib/api/client";
  import { said } from "../lib/toasts.svelte";
  import { workspace } from "../lib/workspace.svelte";
  import Waiting from "../ui/Waiting.svelte";

  /** Which event types and properties tell of messages. */
  let { messaging, kept }: { messaging: Schemas["Messaging"]; kept: () => Promise<void> } = $props();

  const NAMES = [
    ["received", "was received"],
    ["bounced", "bounced"],
    ["opened", "was opened"],
    ["clicked", "was clicked in"],
    ["unsubscribed", "made somebody unsubscribe"],
  ] as const;
  const PROPERTIES = [
    ["campaign", "the campaign"],
    ["channel", "the channel"],
  ] as const;
  const uid = $props.id();
  let names = $state(untrack(() => ({ ...messaging })));
  let problem = $state<Problem | null>(null);
  let working = $state(false);

  async function keep(event: SubmitEvent) {
    event.preventDefault();
    working = true;
    problem = null;
    try {
      await answer(api.PUT("/campaigns/messaging", { body: names }));
      await workspace.refresh();
      await kept();
      said("Messages are read anew");
    } catch (error) {
      problem = problemOf(error);
    }
    working = false;
  }
</script>

<details class="mt-10">
  <summary class="cursor-pointer">Which events tell of messages</summary>
  <form class="mt-2 flex flex-wrap items-end gap-3" onsubmit={keep}>
    {#each NAMES as [key, text] (key)}
      <label class="field">{text} <input required list="{uid}-types" bind:value={names[key]} /></label>
    {/each}
    {#each PROPERTIES as [key, text] (key)}
      <label class="field">property with {text} <input required bind:value={names[key]} /></label>
    {/each}
    <datalist id="{uid}-types">
      {#each workspace.catalogue?.event_types ?? [] as { name } (name)}<option value={name}></option>{/each}
    </datalist>
    <button class="quiet" disabled={working}>{working ? "Reading anew…" : "Keep"}</button>
  </form>
  {#if problem}<Waiting {problem} />{/if}
</details>
