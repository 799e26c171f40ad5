<script lang="ts">
  import { campaignName } from "../lib/names";
  import { address } from "../lib/address.svelte";
  import { Asked } from "../lib/asked.svelte";
  import { bandCondition, bandSaid, condition, type Campaign } from "./campaigns";
  import { number, percent } from "../lib/format";
  import { audienceOf } from "../lib/groups";
  import { channelName } from "../lib/channels";
  import AnalysisPage from "../analyses/AnalysisPage.svelte";
  import { put } from "../analyses/codec";
  import CampaignPoints from "./CampaignPoints.svelte";
  import Downloads from "../ui/Downloads.svelte";
  import PhraseSelect from "../ui/PhraseSelect.svelte";

  /** How people respond from message to message: campaigns as points, and people against campaigns. */
  let { campaigns }: { campaigns: Campaign[] } = $props();

  const channels = $derived([...new Set(campaigns.flatMap((row) => row.channel ?? []))]);
  const channel = $derived(address.get("by_channel"));
  const found = new Asked("response-streaks", () => ({ channel }));
</script>

<AnalysisPage
  asked={found}
  under="Response streaks"
  title="Mean response streak of each campaign"
  name="response-streaks"
  tables={{ current: {} }}
>
  {#snippet question()}
    Consecutive messages people respond to, on <PhraseSelect
      label="Messages by"
      ink="what"
      value={channel}
      options={[["", "any channel"], ...channels.map((one) => [one, channelName(one)] as const)]}
      choose={(one) => put({ by_channel: one || null })}
    />
  {/snippet}
  {#snippet picture(answer)}
    <CampaignPoints points={answer.picture.points} />
    <p class="soft small max-w-3xl">
      A response streak is the number of consecutive messages someone opened or clicked. An ignored message
      ends it.
    </p>
  {/snippet}
  {#snippet more(answer)}
    {@const data = answer.picture}
    <h2 class="mt-6">
      Response rate by responsiveness and campaign
      <span class="ml-3 font-sans text-[0.85rem] font-normal"
        ><Downloads
          name="response"
          rows={data.bands.flatMap((band, at) =>
            data.campaigns.map((campaign, column) => ({
              responds_to: bandSaid(band),
              people: band.people,
              campaign,
              messages: data.cells[at]![column]![0]!,
              responded: data.cells[at]![column]![1]!,
            })),
          )}
        /></span
      >
    </h2>
    <div class="overflow-x-auto">
      <table class="figures mt-1 w-auto!" data-testid="response-map">
        <thead>
          <tr>
            <th class="pr-6!">Overall response rate</th><th class="number pr-6!">People</th>
            {#each data.campaigns as name (name)}<th class="number max-w-32 truncate px-2!" title={name}
                >{campaignName(name)}</th
              >{/each}
          </tr>
        </thead>
        <tbody>
          {#each data.bands as band, at (band.at_least)}
            <tr>
              <td class="pr-6! whitespace-nowrap">{bandSaid(band)}</td>
              <td class="number pr-6!"
                >{#if band.people}<a href={audienceOf([bandCondition(band, channel)])}
                    >{number(band.people)}</a
                  >{:else}0{/if}</td
              >
              {#each data.campaigns as name, column (name)}
                {@const [messages, responded] = data.cells[at]![column] as [number, number]}
                {@const share = messages ? responded / messages : 0}
                <td
                  class="number px-2!"
                  style:background={messages
                    ? `color-mix(in srgb, var(--ink-what) ${Math.round(share * 45)}%, transparent)`
                    : undefined}
                >
                  {#if messages}
                    <a
                      class="no-underline hover:underline"
                      title="{number(messages)} messages of {name}, {number(responded)} responded to"
                      href={audienceOf([
                        bandCondition(band, channel),
                        ...condition({ was: "sent", name, ...(channel ? { channel } : {}) }),
                      ])}>{percent(share)}</a
                    >
                  {:else}<span class="soft">·</span>{/if}
                </td>
              {/each}
            </tr>
          {/each}
        </tbody>
      </table>
    </div>
    <p class="soft small mt-1 max-w-3xl">
      Rows: people by overall response rate. Columns: campaigns, latest last. Cells: response rate. Click a
      number to create an audience.
    </p>
  {/snippet}
</AnalysisPage>
