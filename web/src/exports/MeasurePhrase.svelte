<script lang="ts">
  import { put } from "../analyses/codec";
  import { propertyName } from "../lib/names";
  import type { Schemas } from "../lib/api/client";
  import PhraseSelect from "../ui/PhraseSelect.svelte";
  import { MEASURES, type Measure, type Measured } from "./measure.svelte";

  /** What is measured, as phrases of a sentence. */
  let {
    measured,
    offered = MEASURES,
    paid = false,
    labelled = "",
  }: {
    measured: Measured;
    offered?: readonly (readonly [Measure, string])[];
    /** Whether the sum is there besides another measure. */
    paid?: boolean;
    /** Told of its labels, where another stands on the same page. */
    labelled?: string;
  } = $props();

  const label = (name: string) => (labelled ? `${name}, ${labelled}` : name);

  /** What somebody did: "ended a ride". */
  function done({ phrase, noun }: Schemas["EventType"]): string {
    return phrase ?? `had “${noun}” events`;
  }
</script>

<PhraseSelect
  label={label("Measured by")}
  ink="what"
  value={measured.measure}
  options={offered}
  choose={(measure) => put({ measure, ...(paid ? {} : { event: null, property: null }), size: null })}
/>
{#if paid && measured.measure !== "sum"}, besides the sum per person of{/if}
{#if paid || measured.measure === "sum"}
  <PhraseSelect
    label={label("Property")}
    ink="what"
    value={measured.property}
    options={measured.numbers.map((name) => [name, propertyName(name, measured.event)] as const)}
    choose={(property) => put({ property })}
  /> of
{/if}
{#if paid || measured.measure === "did" || measured.measure === "sum"}
  <PhraseSelect
    label={label("Event")}
    ink="what"
    value={measured.event}
    options={measured.types.map(
      (type) => [type.name, paid || measured.measure === "sum" ? type.noun : done(type)] as const,
    )}
    choose={(event) => put({ event, property: null })}
  />
{/if}
