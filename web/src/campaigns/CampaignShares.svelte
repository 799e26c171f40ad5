<script lang="ts">
  import { linear } from "../charts/scale";
  import { day, fine, number } from "../lib/format";
  import { address } from "../lib/address.svelte";
  import { audienceOf } from "../lib/groups";
  import type { Answer } from "../lib/api/ask";
  import { addressOf, condition, messagesOf, named, type Campaign } from "./campaigns";

  /** The latest campaigns, one a row: which shares of their messages were opened and clicked, and who was reactivated. */
  let { found }: { found: Answer<"campaign-results">["picture"] } = $props();

  const MOST = 8;
  const ROW = 36;
  const TOP = 30;
  const LABEL = 250;
  let width = $state(1100);
  const campaigns = $derived(found.campaigns);
  const shown = $derived(campaigns.slice(0, MOST));
  const height = $derived(TOP + shown.length * ROW + 24);
  const left = $derived(Math.min(LABEL, Math.max(200, width * 0.42)));
  const MARKS = [
    { was: "opened", text: "opened", colour: "var(--ink-what)", of: "messages" },
    { was: "clicked", text: "clicked", colour: "var(--ink-who)", of: "messages" },
    {
      was: "reactivated",
      text: "were reactivated",
      colour: "var(--state-active)",
      of: "dormant or churned people",
    },
  ] as const;
  type Mark = (typeof MARKS)[number];
  /** Up to when messages were received that count. */
  const until = ({ was }: Mark) => (was === "reactivated" ? found.over : found.settled);

  const share = (part: number, whole: number) => (whole ? part / whole : null);
  function valueOf(row: Campaign, mark: Mark): number | null {
    return mark.was === "reactivated" ? share(row.back, row.inactive) : share(row[mark.was], row.settled);
  }
  const most = $derived(
    Math.max(0.05, ...shown.flatMap((row) => MARKS.map((mark) => valueOf(row, mark) ?? 0))),
  );
  const x = $derived(linear([0, most * 1.08], [left, width - 40]));
</script>

<div bind:clientWidth={width}>
  <svg
    viewBox="0 0 {width} {height}"
    {width}
    {height}
    role="group"
    aria-label="Campaigns: shares of messages opened and clicked, and of people reactivated"
    data-testid="shares"
  >
    {#each x.ticks(width > 700 ? 6 : 3) as level (level)}
      <line x1={x(level)} x2={x(level)} y1={TOP - 6} y2={height - 20} stroke="var(--rule)" />
      <text x={x(level)} y={height - 4} text-anchor="middle" class="fill-(--ink-soft) text-[12px]"
        >{fine(level)}</text
      >
    {/each}
    <text y="14" x={width > 700 ? left : 0} class="text-[13px]">
      {#each MARKS as mark, index (mark.was)}<tspan fill={mark.colour} dx={index ? 16 : 0}
          >{["●", "■", "▲"][index]} {mark.text}</tspan
        >{/each}
    </text>
    {#each shown as row, index (addressOf(row))}
      {@const y = TOP + index * ROW + ROW / 2}
      {@const values = MARKS.map((mark) => valueOf(row, mark))}
      {@const known = values.filter((value) => value !== null)}
      <a class="no-underline hover:underline" href={address.with({ campaign: addressOf(row) })}>
        <text x="0" y={y - 2} class="fill-(--ink) text-[13px] font-semibold">{named(row)}</text>
        <text x="0" y={y + 13} class="fill-(--ink-soft) text-[12px]"
          >{day(row.last_day)}, {number(row.messages)} messages</text
        >
      </a>
      {#if known.length}
        <line
          x1={x(Math.min(...known))}
          x2={x(Math.max(...known))}
          y1={y}
          y2={y}
          stroke="var(--rule-strong)"
        />
      {/if}
      {#each MARKS as mark, at (mark.was)}
        {@const value = values[at]}
        {#if value !== null && value !== undefined}
          <a
            href={audienceOf(condition({ was: mark.was, ...messagesOf(row) }, until(mark)))}
            aria-label="{named(row)}: {fine(value)} of {mark.of} {mark.text}; create audience"
          >
            <title>{fine(value)} of {mark.of} {mark.text}</title>
            <g fill={mark.colour} stroke="var(--paper)"
              >{#if at === 0}<circle cx={x(value)} cy={y} r="6.5" />
              {:else if at === 1}<rect x={x(value) - 5.5} y={y - 5.5} width="11" height="11" />
              {:else}<path d="M{x(value)},{y - 7} l7,12.5 h-14 z" />{/if}</g
            >
          </a>
        {/if}
      {/each}
    {/each}
  </svg>
</div>
{#if campaigns.length > MOST}
  <p class="soft small">Latest {MOST} of {number(campaigns.length)} campaigns. The table lists all.</p>
{/if}
