<script lang="ts">
  import AnalysisPage from "../analyses/AnalysisPage.svelte";
  import MessagingForm from "../exports/MessagingForm.svelte";
  import { address } from "../lib/address.svelte";
  import type { Schemas } from "../lib/api/client";
  import { Asked } from "../lib/asked.svelte";
  import CampaignDetail from "./CampaignDetail.svelte";
  import CampaignShares from "./CampaignShares.svelte";
  import { addressOf, campaignOf } from "./campaigns";
  import Responses from "./Responses.svelte";

  /** What came of every campaign, one of them over time, and how people respond from message to message. */
  type Row = Schemas["AnalysisTable"]["rows"][number];
  const results = new Asked("campaign-results", () => ({}));
  const opened = $derived(
    results.data?.picture.campaigns.find((row) => address.get("campaign") === addressOf(row)),
  );

  /** To one campaign day by day. */
  function detail(row: Row, key: string): string | null {
    if (key !== "campaign") return null;
    return address.with({ campaign: addressOf(campaignOf(row)) });
  }
</script>

{#if opened && results.data}
  {#key addressOf(opened)}<CampaignDetail
      row={opened}
      campaigns={results.data.picture.campaigns}
      states={results.data.tables.find((table) => table.key === "states")!}
    />{/key}
{:else}
  <AnalysisPage
    asked={results}
    name="campaigns"
    title="Campaign results"
    tables={{ campaigns: { href: detail } }}
  >
    {#snippet question()}Opens, clicks, unsubscribes and reactivations by campaign{/snippet}
    {#snippet picture(answer)}
      <CampaignShares found={answer.picture} />
    {/snippet}
    {#snippet more(answer)}
      {@const data = answer.picture}
      {#if data.campaigns.length}
        <Responses campaigns={data.campaigns} />
      {:else}
        <p class="mt-2">
          No message events yet. Your messaging service has to send delivery, open and click events back to
          Estrel. Check <a href={address.to("/data/live")}>Live events</a>, or map the event types below.
        </p>
      {/if}
      <MessagingForm messaging={data.messaging} kept={() => results.reload()} />
    {/snippet}
  </AnalysisPage>
{/if}
