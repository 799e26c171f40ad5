<script lang="ts">
  import AnalysisPage from "../analyses/AnalysisPage.svelte";
  import { put } from "../analyses/codec";
  import DataTable from "../analyses/DataTable.svelte";
  import PhraseSelect from "../ui/PhraseSelect.svelte";
  import LinePlot from "../charts/LinePlot.svelte";
  import type { Line } from "../charts/plot";
  import { address } from "../lib/address.svelte";
  import type { Answer } from "../lib/api/ask";
  import type { Schemas } from "../lib/api/client";
  import { Asked } from "../lib/asked.svelte";
  import { fine } from "../lib/format";
  import { audienceOf } from "../lib/groups";
  import { addressOf, campaignOf, condition, messagesOf, named, type Campaign } from "./campaigns";

  /** One campaign by one channel: what had come of it day by day, and by the state people were in. */
  let { row, campaigns, states }: { row: Campaign; campaigns: Campaign[]; states: Schemas["AnalysisTable"] } =
    $props();

  type Days = Answer<"campaign-days">["picture"]["days"];
  const WEEK = 7;
  const days = new Asked("campaign-days", () => ({ campaign: row.campaign, channel: row.channel }));
  const share = (part: number, whole: number) => (whole ? part / whole : null);

  function lines(followed: Days): Line[] {
    const of = (came: "opened" | "clicked") => followed.map((day) => share(day[came], day.messages));
    return [
      { name: "opened", colour: "var(--ink-what)", values: of("opened") },
      { name: "clicked", colour: "var(--ink-who)", values: of("clicked") },
      {
        name: "reactivated",
        colour: "var(--state-active)",
        values: followed.map((day) => share(day.back, day.inactive)),
      },
    ];
  }

  /** To who had been reactivated by a day. */
  function back(day: number) {
    address.go(audienceOf(condition({ was: "reactivated", within_days: day + 1, ...messagesOf(row) })));
  }

  /** The table of all campaigns, of this one alone and without its names. */
  const own = $derived({
    ...states,
    columns: states.columns.slice(2),
    rows: states.rows
      .filter((one) => {
        const { campaign, channel } = campaignOf(one);
        return campaign === row.campaign && channel === row.channel;
      })
      .map((one) => ({ ...one, values: one.values.slice(2) })),
  });
</script>

<section class="mt-4" data-testid="campaign">
  <p class="soft small"><a href={address.with({ campaign: null })}>All campaigns</a> /</p>
  <div class="min-h-dvh">
    <AnalysisPage asked={days} title="Results by days after sending" name="campaign" tables={{ days: {} }}>
      {#snippet question()}Results of <PhraseSelect
          label="Campaign"
          ink="who"
          value={addressOf(row)}
          options={campaigns.map((one) => [addressOf(one), named(one)] as const)}
          choose={(campaign) => put({ campaign })}
        />, day by day{/snippet}
      {#snippet picture(answer)}
        {@const followed = answer.picture.days.filter((day) => day.messages > 0)}
        <LinePlot
          label="Rates by days after sending"
          lines={lines(followed)}
          xs={followed.map(({ day }) => day)}
          marks={followed
            .filter(({ day }) => day % WEEK === 0)
            .map(({ day }) => ({ at: day, text: day === 0 ? "day 0" : `day ${day}` }))}
          format={fine}
          height={320}
          open={(index) => back(followed[index]!.day)}
        />
        <p class="soft small max-w-3xl">
          % of messages sent at least that many days ago. Reactivation rate: % of messages to dormant or
          churned people. Click a day to see who had been reactivated by then.
        </p>
      {/snippet}
    </AnalysisPage>
  </div>
  <DataTable table={own} />
</section>
