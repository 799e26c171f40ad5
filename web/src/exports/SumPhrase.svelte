<script lang="ts">
  import { put } from "../analyses/codec";
  import { propertyName } from "../lib/names";
  import PhraseSelect from "../ui/PhraseSelect.svelte";
  import type { Measured } from "./measure.svelte";

  /** Of which number of which events a sum is, as phrases of a sentence: "price of pass bought". */
  let { measured, label = (name) => name }: { measured: Measured; label?: (name: string) => string } =
    $props();
</script>

<PhraseSelect
  label={label("Property")}
  ink="what"
  value={measured.property}
  options={measured.numbers.map((name) => [name, propertyName(name, measured.event)] as const)}
  choose={(property) => put({ property })}
/> of <PhraseSelect
  label={label("Event")}
  ink="what"
  value={measured.event}
  options={measured.types.map((type) => [type.name, type.noun] as const)}
  choose={(event) => put({ event, property: null })}
/>
