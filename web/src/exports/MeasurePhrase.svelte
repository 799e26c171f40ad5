<script lang="ts">
  import { put } from "../analyses/codec";
  import type { Schemas } from "../lib/api/client";
  import PhraseSelect from "../ui/PhraseSelect.svelte";
  import { MEASURES, type Measured } from "./measure.svelte";
  import SumPhrase from "./SumPhrase.svelte";

  /** What is measured, as phrases of a sentence. */
  let {
    measured,
    labelled = "",
  }: {
    measured: Measured;
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
  options={MEASURES}
  choose={(measure) => put({ measure, event: null, property: null, size: null })}
/>
{#if measured.measure === "sum"}
  <SumPhrase {measured} {label} />
{:else if measured.measure === "did"}
  <PhraseSelect
    label={label("Event")}
    ink="what"
    value={measured.event}
    options={measured.types.map((type) => [type.name, done(type)] as const)}
    choose={(event) => put({ event, property: null })}
  />
{/if}
