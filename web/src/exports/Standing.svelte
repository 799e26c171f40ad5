<script lang="ts">
  import Explained from "../help/Explained.svelte";
  import InputPhrase from "../analyses/InputPhrase.svelte";
  import { address } from "../lib/address.svelte";
  import { answer, api, type Schemas } from "../lib/api/client";
  import { Asked } from "../lib/asked.svelte";
  import { day, days, daysBetween, percent } from "../lib/format";
  import { Kept } from "../lib/kept.svelte";
  import { session } from "../lib/session.svelte";
  import { said } from "../lib/toasts.svelte";
  import PhraseSelect from "../ui/PhraseSelect.svelte";
  import RemoveButton from "../ui/RemoveButton.svelte";
  import Waiting from "../ui/Waiting.svelte";
  import Effect from "./Effect.svelte";
  import { spans, type Span } from "./quarters";

  /** A share of everybody whom no export messages for a quarter, and what all marketing does by it. */
  type Row = Schemas["StandingHoldout"];
  const SHARE = 5;
  const MOST = 50;
  const kept = new Kept((signal) => answer(api.GET("/standing-holdouts", { signal })));
  const rows = $derived(kept.data?.holdouts ?? []);
  const today = $derived(kept.data?.today ?? "");
  const offered = $derived(
    today
      ? spans(
          today,
          rows.map(({ first_day, last_day }) => ({ first: first_day, last: last_day })),
        )
      : [],
  );
  let share = $state(SHARE);
  let first = $state<string | null>(null);
  const span = $derived(offered.find((one) => one.first === first) ?? offered[0]);
  /** What is shown below: the one in the address, or the last that has begun. */
  const shown = $derived(
    rows.find(({ id }) => String(id) === address.get("standing")) ??
      rows.find((row) => row.first_day <= today),
  );
  const shows = new Asked("holdout-size", () => ({
    share: share / 100,
    metric: { lifecycle: "was_active" as const },
    days: span ? daysBetween(span.first, span.last) : 90,
  }));

  const named = ({ first, last }: Span) => `${day(first)} to ${day(last)}`;
  const ofRow = ({ first_day, last_day }: Row) => named({ first: first_day, last: last_day });

  function stands({ first_day, last_day }: Row): string {
    if (last_day < today) return "over";
    if (first_day > today) return `starts in ${days(daysBetween(today, first_day))}`;
    return last_day === today ? "ends today" : `active, ${days(daysBetween(today, last_day))} left`;
  }

  function begin({ first, last }: Span) {
    void kept.attempt(async () => {
      await answer(
        api.POST("/standing-holdouts", { body: { share: share / 100, first_day: first, last_day: last } }),
      );
      said(`${percent(share / 100)} of all people will be held out from ${day(first)}`);
    });
  }

  function stop(row: Row): Promise<void> {
    const params = { path: { id: row.id } };
    return kept.attempt(() =>
      row.first_day > today
        ? answer(api.DELETE("/standing-holdouts/{id}", { params }))
        : answer(api.POST("/standing-holdouts/{id}/end", { params })),
    );
  }
</script>

{#snippet lead()}
  <p class="says mt-3 max-w-none">
    A global holdout <Explained term="standing_holdout" /> excludes a random share of all people from every export,
    usually for a quarter. Comparing them with everyone else shows the effect of all marketing.
  </p>
{/snippet}

{#if kept.data}
  {#if shown}
    {#key shown.id}<Effect of={{ standing: shown.id }} />{/key}
    <h2 class="mt-8">Global holdouts</h2>
  {/if}
  {@render lead()}
  {#if kept.refused}<Waiting problem={kept.refused} />{/if}
  {#if !session.may("administrator")}
    <p class="soft small mt-2">Only administrators can start or end a global holdout.</p>
  {:else if span}
    <form
      class="says mt-2 max-w-none"
      aria-label="New global holdout"
      onsubmit={(event) => {
        event.preventDefault();
        begin(span);
      }}
    >
      Hold <InputPhrase
        label="Percentage of all people"
        value={share}
        most={MOST}
        change={(value) => (share = Math.min(MOST, Math.max(1, Number(value))))}
      />% of all people out from all exports, <PhraseSelect
        label="When"
        ink="when"
        value={span.first}
        options={offered.map((one) => [one.first, named(one)] as const)}
        choose={(chosen) => (first = chosen)}
      />.
      <button class="quiet ml-3 font-sans text-base">Start on {day(span.first)}</button>
    </form>
    {#if shows.data}
      <p class="soft small mt-1 max-w-[60rem]" data-testid="standing-shows">{shows.data.finding}</p>
    {/if}
  {/if}
  {#if rows.length}
    <table class="figures mt-4 w-auto!" data-testid="standing-holdouts">
      <thead>
        <tr>
          <th>Global holdout</th><th class="number pr-8!">Share</th><th>Status</th>
          <th><span class="sr-only">End it</span></th>
        </tr>
      </thead>
      <tbody>
        {#each rows as row (row.id)}
          <tr>
            <td class="pr-8!">
              {#if row.first_day > today}{ofRow(row)}{:else}<a
                  href={address.with({ standing: String(row.id) })}
                  aria-current={row.id === shown?.id ? "true" : undefined}>{ofRow(row)}</a
                >{/if}
            </td>
            <td class="number pr-8!"
              ><a
                href={address.to("/people", { held_by: String(row.id) })}
                aria-label="{percent(row.share)}: people in the holdout">{percent(row.share)}</a
              ></td
            >
            <td class="pr-8!">{stands(row)}</td>
            <td>
              {#if session.may("administrator") && row.last_day > today}
                <RemoveButton
                  name={ofRow(row)}
                  verb={row.first_day > today ? "Delete" : "End today"}
                  remove={() => stop(row)}
                />
              {/if}
            </td>
          </tr>
        {/each}
      </tbody>
    </table>
    <p class="soft small mt-1 max-w-[46rem]">
      Members and dates are fixed once it has started. You can end it early; its people can be messaged again
      from the next day. Click the percentage to see these people, for
      example to exclude them in other messaging tools.
    </p>
  {:else}
    <p class="soft mt-4">No global holdouts yet.</p>
  {/if}
{:else}<Waiting problem={kept.problem} retry={() => kept.reload()} />{/if}
