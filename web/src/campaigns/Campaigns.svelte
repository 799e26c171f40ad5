<script lang="ts">
  import { address } from "../lib/address.svelte";
  import { Asked } from "../lib/asked.svelte";
  import { clause, messagesOf, named, type Campaign } from "./campaigns";
  import CampaignDetail from "./CampaignDetail.svelte";
  import Downloads from "../ui/Downloads.svelte";
  import MessagingForm from "../exports/MessagingForm.svelte";
  import Responses from "./Responses.svelte";
  import Waiting from "../ui/Waiting.svelte";
  import type { Campaign as Clause } from "../audiences/definition";
  import type { Row } from "../lib/downloads";
  import { day, number, percent } from "../lib/format";
  import { peopleOf } from "../lib/groups";
  import { channelName } from "../exports/handover";

  /** What came of every campaign, one of them over time, and how people respond from message to message. */
  const results = new Asked("campaign-results", () => ({}));
  const found = $derived(results.data?.picture);
  const opened = $derived(
    found?.campaigns.find(
      (row) =>
        address.get("campaign") === (row.campaign ?? "") && address.get("channel") === (row.channel ?? ""),
    ),
  );
  const CAME = [
    ["opened", "Opened"],
    ["clicked", "Clicked"],
    ["unsubscribed", "Unsubscribed"],
  ] as const;

  function toggle(row: Campaign) {
    const open = row !== opened;
    const chosen = {
      campaign: open ? (row.campaign ?? "") : null,
      channel: open ? (row.channel ?? "") : null,
    };
    address.go(address.with(chosen), { replace: true });
  }

  /** A campaign as a row to take along, without its states. */
  const taken = (row: Campaign) =>
    Object.fromEntries(Object.entries(row).filter(([key]) => key !== "states")) as Row;

  const people = (row: Campaign, was: Clause["was"]) => peopleOf(clause({ was, ...messagesOf(row) }));
</script>

{#if results.data && found}
  {@const data = found}
  <p class="says mt-4" data-testid="finding">{results.data.finding}</p>
  {#if data.campaigns.length}
    <h2 class="mt-6">
      What came of each campaign
      <span class="ml-3 font-sans text-[0.85rem] font-normal"
        ><Downloads name="campaigns" rows={data.campaigns.map(taken)} /></span
      >
    </h2>
    <div class="mt-2 overflow-x-auto">
      <table class="figures" data-testid="campaigns">
        <thead>
          <tr>
            <th>Campaign</th><th>Channel</th><th>Received</th>
            <th class="number">Exported</th><th class="number">Messages</th><th class="number">Bounced</th>
            {#each CAME as [key, title] (key)}<th class="number">{title}</th>{/each}
            <th class="number">Came back</th>
          </tr>
        </thead>
        <tbody>
          {#each data.campaigns as row, index (index)}
            <tr>
              <td
                ><button
                  class="cursor-pointer font-semibold underline decoration-(--rule-strong) underline-offset-3"
                  aria-expanded={row === opened}
                  onclick={() => toggle(row)}>{row.campaign ?? "no campaign"}</button
                ></td
              >
              <td>{row.channel ? channelName(row.channel) : "–"}</td>
              <td class="whitespace-nowrap"
                >{row.first_day === row.last_day
                  ? day(row.last_day)
                  : `${day(row.first_day)} to ${day(row.last_day)}`}</td
              >
              <td class="number">{row.exported === null ? "–" : number(row.exported)}</td>
              <td class="number"><a href={people(row, "sent")}>{number(row.messages)}</a></td>
              <td class="number">{number(row.bounced)}</td>
              {#each CAME as [key] (key)}
                <td class="number"
                  ><a href={people(row, key)}>{number(row[key])}</a>
                  <span class="soft small">{percent(row[key] / row.messages)}</span></td
                >
              {/each}
              <td class="number" class:unfinished={!row.complete}
                >{#if row.inactive}<a href={people(row, "returned")}>{number(row.back)}</a>
                  <span class="soft small">of {number(row.inactive)}</span>{:else}–{/if}</td
              >
            </tr>
          {/each}
        </tbody>
      </table>
    </div>
    <p class="soft small mt-1 max-w-3xl">
      {results.data.caveats.join(" ")} Hatched: these days are not over.
    </p>
    {#if opened}
      {#key named(opened)}<CampaignDetail row={opened} backDays={data.back_days} />{/key}
    {/if}
    <Responses campaigns={data.campaigns} />
  {:else}
    <p class="mt-2">
      Messages are known from events that come back from whoever sends them. <a href={address.to("/data")}
        >Look at what has come in</a
      >, or say below which events tell of messages.
    </p>
  {/if}
  <MessagingForm messaging={data.messaging} kept={() => results.reload()} />
{:else}
  <Waiting of={results} />
{/if}
