<script lang="ts">
  import { address } from "../lib/address.svelte";
  import Parts from "../ui/Parts.svelte";
  import Campaigns from "../campaigns/Campaigns.svelte";
  import Keeping from "./Keeping.svelte";
  import Export from "./Export.svelte";
  import ExportList from "./ExportList.svelte";
  import Run from "./Run.svelte";
  import Runs from "./Runs.svelte";
  import Standing from "./Standing.svelte";

  /** Exporting: the exports, their runs, and what exports refer to. */
  let { part, id }: { part: string; id: string } = $props();

  const PARTS = [
    ["", "Exports"],
    ["runs", "Runs"],
    ["campaigns", "Campaigns"],
    ["standing", "Global holdout"],
    ["keeping", "Setup"],
  ] as const;
  const single = $derived(/^(new|\d+)$/.test(part));
</script>

{#if single}
  {#key part}<Export id={part === "new" ? null : Number(part)} />{/key}
{:else if part === "runs" && id}
  {#key id}<Run id={Number(id)} />{/key}
{:else}
  <Parts name="Exports" path="/exports" parts={PARTS} {part} />
  {#if part === ""}
    <ExportList />
  {:else if part === "runs"}
    <Runs />
  {:else if part === "campaigns"}
    <Campaigns />
  {:else if part === "standing"}
    <Standing />
  {:else if part === "keeping"}
    <Keeping />
  {:else}
    <p class="mt-6">Page not found. Go to <a href={address.to("/exports")}>Exports</a>.</p>
  {/if}
{/if}
