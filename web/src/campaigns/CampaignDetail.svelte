<script lang="ts">
  import { Asked } from "../lib/asked.svelte";
  import { address } from "../lib/address.svelte";
  import { clause, messagesOf, named, type Campaign } from "./campaigns";
  import { fine, number, percent } from "../lib/format";
  import { audienceOf, peopleOf } from "../lib/groups";
  import type { Line } from "../charts/plot";
  import type { State } from "../lifecycle/states";
  import Downloads from "../ui/Downloads.svelte";
  import LinePlot from "../charts/LinePlot.svelte";
  import Picture from "../charts/Picture.svelte";
  import StateMark from "../lifecycle/StateMark.svelte";
  import Waiting from "../ui/Waiting.svelte";

  /** One campaign by one channel: what had come of it day by day, and by the state people were in. */
  let { row, backDays }: { row: Campaign; backDays: number } = $props();

  const WEEK = 7;
  const found = new Asked("campaign-days", () => ({ campaign: row.campaign, channel: row.channel }));
  const days = $derived((found.data?.picture.days ?? []).filter((day) => day.messages > 0));
  const share = (part: number, whole: number) => (whole ? part / whole : null);
  const lines = $derived<Line[]>([
    { name: "opened", colour: "var(--ink-what)", values: days.map((day) => share(day.opened, day.messages)) },
    {
      name: "clicked",
      colour: "var(--ink-who)",
      values: days.map((day) => share(day.clicked, day.messages)),
    },
    {
      name: "came back",
      colour: "var(--state-active)",
      values: days.map((day) => share(day.back, day.inactive)),
    },
  ]);
  /** Who had come back by a day. */
  function back(index: number) {
    const within_days = days[index]!.day + 1;
    address.go(audienceOf(clause({ was: "returned", within_days, ...messagesOf(row) })));
  }
  const marks = $derived(
    days
      .filter(({ day }) => day % WEEK === 0)
      .map(({ day }) => ({ at: day, text: day === 0 ? "day 0" : `day ${day}` })),
  );
</script>

<section class="mt-6 border-t border-(--rule-strong) pt-1" data-testid="campaign">
  {#if found.data && !found.problem}
    <Picture title="{named(row)}, day by day after the message" name="campaign">
      {#snippet beside()}<Downloads name="campaign-over-time" rows={days} />{/snippet}
      <LinePlot
        label="Shares after so many days"
        {lines}
        xs={days.map((day) => day.day)}
        {marks}
        format={fine}
        height={220}
        open={back}
      />
      <p class="soft small max-w-3xl">
        Of the messages that are so many days old; came back: of those to dormant and churned people. Click a
        day for those who had come back by then.
      </p>
    </Picture>
  {:else}<Waiting of={found} />{/if}
  <h2 class="mt-4">By the state on the day before</h2>
  <div class="overflow-x-auto">
    <table class="figures mt-1 w-auto!" data-testid="by-state">
      <thead>
        <tr>
          <th>State</th><th class="number">Messages</th><th class="number">Opened</th><th class="number"
            >Clicked</th
          ><th class="number">Unsubscribed</th><th class="number">Came back in {backDays} days</th><th
            ><span class="sr-only">Actions</span></th
          >
        </tr>
      </thead>
      <tbody>
        {#each row.states as part (part.state)}
          {@const state = part.state as State}
          {@const group = { from: [state], ...messagesOf(row) }}
          <tr>
            <td><StateMark {state} /></td>
            <td class="number"
              ><a href={peopleOf(clause({ ...group, was: "sent" }))}>{number(part.messages)}</a></td
            >
            {#each ["opened", "clicked", "unsubscribed"] as const as key (key)}
              <td class="number"
                ><a href={peopleOf(clause({ ...group, was: key }))}>{number(part[key])}</a>
                <span class="soft small">{percent(part[key] / part.messages)}</span></td
              >
            {/each}
            <td class="number" class:unfinished={!row.complete}
              >{#if part.inactive}<a href={peopleOf(clause({ ...group, was: "returned" }))}
                  >{number(part.back)}</a
                >
                <span class="soft small">{percent(part.back / part.inactive)}</span>{:else}–{/if}</td
            >
            <td
              ><a
                class="small"
                aria-label="{state} people who ignored it as an audience"
                href={audienceOf(clause({ ...group, was: "ignored" }))}>who ignored it, as an audience</a
              ></td
            >
          </tr>
        {/each}
      </tbody>
    </table>
  </div>
</section>
