<script lang="ts">
  import { address } from "../lib/address.svelte";
  import Parts from "../ui/Parts.svelte";
  import Campaigns from "../campaigns/Campaigns.svelte";
  import Keeping from "./Keeping.svelte";
  import Plan from "./Plan.svelte";
  import Plans from "./Plans.svelte";
  import Run from "./Run.svelte";
  import Runs from "./Runs.svelte";

  /** Handing over: the plans, their runs, and what plans refer to. */
  let { part, id }: { part: string; id: string } = $props();

  const PARTS = [
    ["", "Plans"],
    ["runs", "Runs"],
    ["campaigns", "Campaigns"],
    ["keeping", "Lists, holdouts, destinations"],
  ] as const;
  const plan = $derived(/^(new|\d+)$/.test(part));
</script>

{#if plan}
  {#key part}<Plan id={part === "new" ? null : Number(part)} />{/key}
{:else if part === "runs" && id}
  {#key id}<Run id={Number(id)} />{/key}
{:else}
  <Parts name="Exports" path="/exports" parts={PARTS} {part} />
  {#if part === ""}
    <Plans />
  {:else if part === "runs"}
    <Runs />
  {:else if part === "campaigns"}
    <Campaigns />
  {:else if part === "keeping"}
    <Keeping />
  {:else}
    <p class="mt-6">There is no such page. Go to <a href={address.to("/exports")}>the plans</a>.</p>
  {/if}
{/if}
