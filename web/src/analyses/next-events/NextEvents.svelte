<script lang="ts">
  import { comparison, letter } from "../../audiences/comparison.svelte";
  import ComparedNames from "../../audiences/ComparedNames.svelte";
  import { Asked } from "../../lib/asked.svelte";
  import { addDays, duration, number, percent } from "../../lib/format";
  import { address } from "../../lib/address.svelte";
  import { peopleOf } from "../../lib/groups";
  import { isCondition, parsed } from "../../lib/shapes";
  import { workspace } from "../../lib/workspace.svelte";
  import PhraseSelect from "../../ui/PhraseSelect.svelte";
  import AnalysisPage from "../AnalysisPage.svelte";
  import { put, Reader, selectionText } from "../codec";
  import SincePhrase from "../SincePhrase.svelte";
  import EventsPhrase from "../EventsPhrase.svelte";
  import WithinPhrases, { withinOf } from "../WithinPhrases.svelte";
  import { asksSomething, readSeries } from "../series";
  import Branches from "./Branches.svelte";

  /** What people do right after, or right before, something. */
  const DAYS = 90;
  const MOST_DEPTH = 5;

  const asked = $derived.by(() => {
    const reader = new Reader();
    return {
      event: readSeries(reader)[0]!,
      before: reader.oneOf("direction", ["before"] as const) === "before",
      within: reader.parsed("within", withinOf),
      among: reader.selection("among"),
      depth: reader.whole("depth", 1, MOST_DEPTH) ?? 2,
      from: reader.date("from") ?? addDays(workspace.asOf, 1 - DAYS),
      who: reader.parsed("whom", (text) => parsed(text, isCondition)),
      left: reader.left,
    };
  });
  const next = new Asked("next-events", () => {
    const { event, before, within, among, depth, from, who } = asked;
    if (!asksSomething([event])) return null;
    return {
      ...{ event, within, depth, from, audiences: comparison.active },
      ...(who ? { who } : {}),
      among: among?.events ?? (among?.event ? [among.event] : null),
      direction: before ? ("before" as const) : ("after" as const),
    };
  });
  const onwards = (event: string) => address.with({ event, also: null });
</script>

<AnalysisPage
  asked={next}
  title={asked.before ? "Previous events" : "Next events"}
  name="next-events"
  left={asked.left}
>
  {#snippet question()}
    What people do right <PhraseSelect
      label="After or before"
      ink="when"
      value={asked.before ? "before" : "after"}
      options={[
        ["after", "after"],
        ["before", "before"],
      ]}
      choose={(direction) => put({ direction: direction === "before" ? direction : null })}
    /> they <EventsPhrase
      label="Event"
      selection={asked.event}
      done
      change={(event) => put({ event: selectionText(event), also: null })}
    />, <PhraseSelect
      label="Time limit"
      ink="when"
      value={asked.within ? "within" : ""}
      options={[
        ["", "in the same visit"],
        ["within", "within"],
      ]}
      choose={(how) => put({ within: how ? "7 days" : null })}
    />
    {#if asked.within}
      <WithinPhrases within={asked.within} />
    {/if}, considering <EventsPhrase
      label="What can come next"
      selection={asked.among ?? { any_event: true }}
      filtered={false}
      change={(among) => put({ among: among.any_event ? null : selectionText(among) })}
    />, <PhraseSelect
      label="Depth"
      ink="what"
      value={asked.depth}
      options={[1, 2, 3, 4, 5].map(
        (depth) => [String(depth), depth === 1 ? "1 step" : `${depth} steps`] as const,
      )}
      choose={(depth) => put({ depth: depth === "2" ? null : depth })}
    /> deep, <SincePhrase from={asked.from} />{#if comparison.active.length}, compared with
      <ComparedNames />{/if}{#if asked.who}, only
      {(next.data?.picture.who ?? "some people").replace(/^People/, "people")}<button
        class="soft mx-0.5 cursor-pointer font-sans hover:text-(--accent)"
        aria-label="Remove filter"
        onclick={() => put({ whom: null })}>×</button
      >{/if}
  {/snippet}
  {#snippet picture(answer)}
    {@const data = answer.picture}
    <div class="grid grid-cols-[minmax(0,1fr)] gap-x-8 gap-y-4 lg:grid-cols-[minmax(0,1fr)_260px]">
      <Branches
        {data}
        label="Events right {data.direction} people {data.name}, % of {number(data.times)} occurrences"
      />
      <div data-testid="next-key">
        <ul>
          {#each data.branches as branch (branch.event)}
            <li class="border-b border-(--rule) py-1.5">
              <div class="flex items-baseline gap-2">
                <a href={onwards(branch.event)} title="Show what follows this event" class="mr-auto"
                  >{branch.name}</a
                >
                <span class="tabular-nums">{percent(branch.share)}</span>
                <a class="w-16 text-right font-semibold tabular-nums" href={peopleOf([branch.did])}
                  >{number(branch.people)}</a
                >
              </div>
              <p class="soft small">median {duration(branch.wait)}</p>
              {#if branch.audiences.length}
                <p class="small flex flex-wrap gap-x-3">
                  {#each branch.audiences as own, index (data.ids[index])}
                    {@const place = Math.max(0, comparison.position(data.ids[index]!))}
                    <a
                      href={peopleOf([{ audience: { id: data.ids[index]! } }, branch.did])}
                      title="{data.names[index]}: {number(own.people)} people"
                      style:color="var(--comparison-{place})"
                      ><b>{letter(place)}</b> {own.share === null ? "–" : percent(own.share)}</a
                    >
                  {/each}
                </p>
              {/if}
            </li>
          {/each}
          {#if data.other}
            <li class="soft flex border-b border-(--rule) py-1.5">
              <span class="mr-auto">{number(data.other.types)} other events</span>
              <span class="w-16 text-right tabular-nums">{number(data.other.times)}×</span>
            </li>
          {/if}
          <li class="flex gap-2 py-1.5">
            <span class="mr-auto">{asked.before ? "no earlier event" : "no further event"}</span>
            <span class="tabular-nums">{data.times ? percent(data.ended / data.times) : "–"}</span>
            <span class="w-16"></span>
          </li>
        </ul>
      </div>
    </div>
    <p class="soft small mt-1">
      Percentages: of occurrences; numbers: people. Pale: no {asked.before ? "earlier" : "further"} event, or rarer
      events grouped together. Click an event to continue from it.
    </p>
  {/snippet}
  {#snippet instead()}
    <p class="soft small mt-1">No events yet. Import a file or connect a source.</p>
  {/snippet}
</AnalysisPage>
