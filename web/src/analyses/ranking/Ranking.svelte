<script lang="ts">
  import { answer, api, problemOf, type Problem, type Schemas } from "../../lib/api/client";
  import { comparison } from "../../audiences/comparison.svelte";
  import ComparedNames from "../../audiences/ComparedNames.svelte";
  import RowBars, { type RowBar } from "../../charts/RowBars.svelte";
  import { address } from "../../lib/address.svelte";
  import { Asked } from "../../lib/asked.svelte";
  import { addDays, day, list, number } from "../../lib/format";
  import { peopleOf } from "../../lib/groups";
  import { session } from "../../lib/session.svelte";
  import { said } from "../../lib/toasts.svelte";
  import { workspace } from "../../lib/workspace.svelte";
  import PhraseSelect from "../../ui/PhraseSelect.svelte";
  import AnalysisPage from "../AnalysisPage.svelte";
  import { put, Reader } from "../codec";
  import SincePhrase from "../SincePhrase.svelte";

  /** What people do most, by how many did it or how often, and how that has changed. */
  const DAYS = 30;
  const SHOWN = 12;
  const COUNTED = ["people", "times"] as const;
  type Row = Schemas["RankingPicture"]["rows"][number];

  /** Names with a comma in them are escaped; null where they cannot be read. */
  function names(text: string): string[] | null {
    try {
      return text.split(",").filter(Boolean).map(decodeURIComponent);
    } catch {
      return null;
    }
  }

  const asked = $derived.by(() => {
    const reader = new Reader();
    return {
      from: reader.date("from"),
      counted: reader.oneOf("counted", COUNTED) ?? "people",
      /** Raw names of the event types that are left out for now. */
      leftOut: reader.parsed("leave", names) ?? [],
      left: reader.left,
    };
  });
  const from = $derived(asked.from ?? addDays(workspace.asOf, 1 - DAYS));
  const ranking = new Asked("ranking", () => ({
    from,
    counted_by: asked.counted,
    audiences: comparison.active,
  }));
  const shown = (rows: Row[]) => rows.filter(({ event }) => !asked.leftOut.includes(event));

  function bars(rows: Row[]): RowBar[] {
    return shown(rows)
      .slice(0, SHOWN)
      .map((row) => ({
        name: row.name,
        value: row[asked.counted],
        said: number(row[asked.counted]),
        colour: "var(--ink-soft)",
        href: peopleOf([row.did]),
        trend: row.trend,
      }));
  }

  /** Analyses that go on with one event, and how that is said. */
  const ONWARDS = [
    ["trends", "trend", "Trend over time"],
    ["next-events", "next", "Paths from this event"],
    ["frequency", "how often", "Frequency of this event"],
  ] as const;
  const onwards = (analysis: string, event: string) =>
    address.to(`/analyses/${analysis}`, {
      ...{ event, from, as_of: address.get("as_of"), compare: address.get("compare") },
    });

  function leave(events: string[]) {
    put({ leave: events.map(encodeURIComponent).join(",") || null });
  }

  let problem = $state<Problem | null>(null);

  /** Hides event types everywhere but where they are meant already, or shows them again. */
  async function hide(names: string[], hidden: boolean) {
    problem = null;
    const types = (workspace.catalogue?.event_types ?? []).filter(({ name }) => names.includes(name));
    try {
      for (const { id } of types)
        await answer(api.PUT("/catalogue/types/{id}", { params: { path: { id } }, body: { hidden } }));
      await workspace.refresh();
      const words = `${list(names)} ${names.length > 1 ? "are" : "is"} hidden`;
      if (hidden) said(words, () => void hide(names, false));
    } catch (error) {
      problem = problemOf(error);
    }
  }
</script>

<AnalysisPage
  asked={ranking}
  title={asked.counted === "people" ? "People" : "Times"}
  name="ranking"
  left={asked.left}
>
  {#snippet question()}
    Events, <SincePhrase {from} />, ranked by <PhraseSelect
      label="Counted by"
      ink="what"
      value={asked.counted}
      options={[
        ["people", "people"],
        ["times", "times"],
      ]}
      choose={(counted) => put({ counted: counted === "people" ? null : counted })}
    />{#if comparison.active.length}, beside
      <ComparedNames />{/if}
  {/snippet}
  {#snippet picture(answer)}
    {@const data = answer.picture}
    {@const rows = shown(data.rows)}
    <div class="grid grid-cols-[minmax(0,1fr)] gap-x-8 gap-y-4 lg:grid-cols-[minmax(0,1fr)_260px]">
      <RowBars
        rows={bars(data.rows)}
        label="Events ranked by {asked.counted}, {day(data.from)} to {day(data.to)}"
      />
      <div data-testid="ranking-key">
        <ul class="mt-1">
          {#each rows.slice(0, SHOWN) as row (row.event)}
            <li class="small flex h-[30px] items-center gap-3 border-b border-(--rule)">
              <span class="mr-auto lg:sr-only">{row.name}</span>
              {#each ONWARDS as [analysis, text, says] (analysis)}
                <a href={onwards(analysis, row.event)} aria-label="{row.name} {says}">{text}</a>
              {/each}
              <button
                class="cursor-pointer underline decoration-(--rule-strong) underline-offset-3 hover:text-(--accent)"
                aria-label="Hide {row.name}"
                onclick={() => leave([...asked.leftOut, row.event])}>Hide</button
              >
            </li>
          {/each}
        </ul>
        {#if asked.leftOut.length}
          <p class="soft small mt-2">
            Hidden: {asked.leftOut
              .map((event) => data.rows.find((row) => row.event === event)?.name ?? event)
              .join(", ")}.
            <button class="cursor-pointer underline" onclick={() => leave([])}>Show all</button>
            {#if session.may("analyst")}<button
                class="cursor-pointer underline"
                title="Hides the event type everywhere. Undo under Data → Catalogue."
                onclick={() => hide(asked.leftOut, true)}>Hide everywhere</button
              >{/if}
            {#if problem}<span role="alert" class="text-(--alarm)">{problem.detail}</span>{/if}
          </p>
        {/if}
      </div>
    </div>
    <p class="soft small mt-1">
      {data.active === null ? "" : `${number(data.active)} active people. `}Change vs {day(data.before.from)} to
      {day(data.before.to)}.
      {rows.length > SHOWN ? `Top ${SHOWN} of ${number(rows.length)} shown. ` : ""}<span
        class="hidden lg:inline">Small charts: people per day.</span
      >
    </p>
  {/snippet}
</AnalysisPage>
