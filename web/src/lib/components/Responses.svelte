<script lang="ts">
  import { address } from "../address.svelte";
  import { answer, api } from "../api/client";
  import { bandClause, bandSaid, clause, type Campaign } from "../campaigns";
  import { number, percent } from "../format";
  import { audienceOf } from "../groups";
  import { channelName } from "../handover";
  import { Resource } from "../resource.svelte";
  import { workspace } from "../workspace.svelte";
  import CampaignPoints from "./CampaignPoints.svelte";
  import Downloads from "./Downloads.svelte";
  import Waiting from "./Waiting.svelte";

  /** How people respond from message to message: campaigns as points, and people against campaigns. */
  let { campaigns }: { campaigns: Campaign[] } = $props();

  const channels = $derived([...new Set(campaigns.flatMap((row) => row.channel ?? []))]);
  const channel = $derived(address.get("by_channel"));
  const found = new Resource((signal) =>
    answer(
      api.GET("/campaigns/response", {
        params: { query: { ...workspace.dates, channel: channel ?? undefined } },
        signal,
      }),
    ),
  );
</script>

<div class="mt-8 flex flex-wrap items-baseline gap-x-4">
  <h2>From message to message</h2>
  <label class="small flex items-center gap-2">
    messages by
    <select
      aria-label="Messages by"
      value={channel ?? ""}
      onchange={(event) =>
        address.go(address.with({ by_channel: event.currentTarget.value || null }), { replace: true })}
    >
      <option value="">any channel</option>
      {#each channels as one (one)}<option value={one}>{channelName(one)}</option>{/each}
    </select>
  </label>
</div>
{#if found.data && !found.problem}
  {@const data = found.data}
  <p class="soft max-w-3xl">
    A run of response is how many messages in a row somebody opened or clicked in; one that was ignored ends
    it. Current runs:
    {#each data.current_runs.slice(0, 8) as { length, people }, index (length)}{index ? ", " : ""}<a
        href={audienceOf(
          clause({
            run: { of: "current", at_least: length, less_than: length + 1 },
            ...(channel ? { channel } : {}),
          }),
        )}>{number(people)}</a
      >
      of {length}{/each}.
  </p>
  <CampaignPoints points={data.points} />
  <h2 class="mt-6">
    Who responds to what
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
          <th class="pr-6!">Respond to</th><th class="number pr-6!">People</th>
          {#each data.campaigns as name (name)}<th class="number max-w-32 truncate px-2!" title={name}
              >{name}</th
            >{/each}
        </tr>
      </thead>
      <tbody>
        {#each data.bands as band, at (band.at_least)}
          <tr>
            <td class="pr-6! whitespace-nowrap">{bandSaid(band)}</td>
            <td class="number pr-6!"
              >{#if band.people}<a href={audienceOf([bandClause(band, channel)])}>{number(band.people)}</a
                >{:else}0{/if}</td
            >
            {#each data.campaigns as name, column (name)}
              {@const [messages, responded] = data.cells[at]![column] as [number, number]}
              {@const share = messages ? responded / messages : 0}
              <td
                class="number px-2!"
                style:background={messages
                  ? `color-mix(in srgb, var(--ink-what) ${Math.round(share * 55)}%, transparent)`
                  : undefined}
              >
                {#if messages}
                  <a
                    class="no-underline hover:underline"
                    title="{number(messages)} messages of {name}, {number(responded)} responded to"
                    href={audienceOf([
                      bandClause(band, channel),
                      ...clause({ was: "sent", name, ...(channel ? { channel } : {}) }),
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
    People by the share of all their messages they responded to, against the campaigns in order of their last
    message: the share of messages responded to. Every number opens as an audience.
  </p>
{:else}
  <Waiting problem={found.problem} retry={() => found.reload()} />
{/if}
