<script lang="ts">
  import { comparison } from "../../audiences/comparison.svelte";
  import ComparedNames from "../../audiences/ComparedNames.svelte";
  import type { Selection } from "../../audiences/definition";
  import { offeredTypes } from "../../audiences/editor/values";
  import { address } from "../../lib/address.svelte";
  import PhraseSelect from "../../ui/PhraseSelect.svelte";
  import { put, selectionText } from "../codec";
  import EventsPhrase from "../EventsPhrase.svelte";
  import RangePhrases from "../RangePhrases.svelte";
  import SplitBy from "../SplitBy.svelte";
  import { FIGURES, UNITS, type read } from "./question";

  /** What is asked of visits, as a sentence with phrases to change. */
  let {
    asked,
    doing,
  }: {
    asked: ReturnType<typeof read>;
    /** What people have done who are told apart by it. */
    doing: Selection;
  } = $props();

  /** Besides visits, people and time, whatever money was spent on. */
  const orders = $derived<[string, string][]>([
    ["visits", "visits"],
    ["people", "people"],
    ["time", "time spent"],
    ...offeredTypes().flatMap(({ name, noun, properties }) =>
      properties
        .filter(({ quantity, type }) => quantity === "money" && type === "number")
        .map((field): [string, string] => [`sum:${name}:${field.name}`, `${field.display} of ${noun}`]),
    ),
  ]);
  /** Properties of any event, each once, since any may begin a visit. */
  const properties = $derived(
    Object.values(
      Object.fromEntries(
        offeredTypes().flatMap(({ properties }) => properties.map((field) => [field.name, field])),
      ),
    ),
  );
</script>

<PhraseSelect
  label="Measure"
  ink="what"
  value={asked.figure}
  options={Object.entries(FIGURES).map(([figure, { asks }]) => [figure, asks] as const)}
  choose={(figure) => put({ figure: figure === "visits" ? null : figure, shown: null })}
/>, <RangePhrases until />, in <PhraseSelect
  label="Unit of time"
  ink="what"
  value={asked.unit}
  options={Object.entries(UNITS)}
  choose={(unit) => put({ unit: unit === "minutes" ? null : unit, edges: null })}
/>, split by <SplitBy
  phrase
  overTime
  twice={Boolean(asked.by)}
  value={asked.told}
  none={comparison.active.length ? "the comparison" : "nothing"}
  also={[
    ["new", "first vs later visits"],
    ["did", "did vs did not do an event"],
  ]}
  events={properties}
  eventsAre="Property of the visit's first event"
  eventsBy="first"
  choose={(by) => put({ by: by || null, doing: null, row: null })}
/>{#if asked.told === "did"}: people who
  <EventsPhrase
    label="Event"
    selection={doing}
    done
    change={(selection) => put({ doing: selectionText(selection) })}
  /> vs everyone else{/if}{#if asked.by || asked.first}, top values by <PhraseSelect
    label="Order of values"
    ink="what"
    value={address.get("most") ?? "visits"}
    options={orders}
    choose={(order) => put({ most: order === "visits" ? null : order })}
  />{/if}{#if !asked.told && comparison.active.length}:
  <ComparedNames />{/if}
