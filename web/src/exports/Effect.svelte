<script lang="ts">
  import { propertyName } from "../lib/names";
  import Explained from "../help/Explained.svelte";
  import AnalysisPage from "../analyses/AnalysisPage.svelte";
  import { put } from "../analyses/codec";
  import InputPhrase from "../analyses/InputPhrase.svelte";
  import { numbersOf } from "../audiences/editor/values";
  import { address } from "../lib/address.svelte";
  import type { Schemas } from "../lib/api/client";
  import { Asked } from "../lib/asked.svelte";
  import { percent } from "../lib/format";
  import { workspace } from "../lib/workspace.svelte";
  import PhraseSelect from "../ui/PhraseSelect.svelte";
  import EffectStrip from "./EffectStrip.svelte";

  /** Whether a run made a difference: those exported against the holdout, who were chosen by chance. */
  let { run }: { run: Schemas["Run"] } = $props();

  const DAYS = 14;
  /** The smallest difference that matters: of shares, and of means as a part of that of the holdout. */
  const SIZES = { share: [0.005, 0.01, 0.02, 0.05, 0.1], sum: [0.02, 0.05, 0.1, 0.2, 0.5] };
  const USUAL = { share: 0.02, sum: 0.1 };
  const MEASURES = [
    ["back", "how many came back"],
    ["did", "how many"],
    ["sum", "the sum per person of"],
  ] as const;
  type Measure = (typeof MEASURES)[number][0];
  const types = $derived(workspace.catalogue?.event_types ?? []);
  const measure = $derived((address.get("measure") ?? "back") as Measure);
  const event = $derived(address.get("event") ?? types[0]?.name);
  const numbers = $derived(numbersOf(event));
  const property = $derived(address.get("property") ?? numbers[0]);
  const days = $derived(Number(address.get("days") ?? DAYS));
  const kind = $derived(measure === "sum" ? "sum" : "share");
  const size = $derived(Number(address.get("size") ?? USUAL[kind]));
  const sizes = $derived(
    SIZES[kind].map(
      (one) =>
        [
          String(one),
          kind === "sum" ? `${percent(one)} of the mean` : `${(one * 100).toFixed(1)} points`,
        ] as const,
    ),
  );

  /** What somebody did: "ended a ride". */
  function done({ phrase, noun }: Schemas["EventType"]): string {
    return phrase ?? `had “${noun}” events`;
  }

  const effect = new Asked("export-effect", () => ({
    run: run.id,
    days,
    size,
    metric: measure === "back" ? null : metric(measure),
  }));

  function metric(measure: "did" | "sum"): Schemas["Metric"] {
    const sum = measure === "sum" && property;
    return { ...(event ? { event } : {}), ...(sum ? { measure: "sum", property } : { measure: "people" }) };
  }
</script>

<AnalysisPage asked={effect} under="Did it change anything?" title="Difference to the holdout" name="effect">
  {#snippet question()}
    Whether the export changed <PhraseSelect
      label="Measured by"
      ink="what"
      value={measure}
      options={MEASURES}
      choose={(measure) => put({ measure, event: null, property: null, size: null })}
    />
    {#if measure === "sum"}
      <PhraseSelect
        label="Property"
        ink="what"
        value={property}
        options={numbers.map((name) => [name, propertyName(name, event)] as const)}
        choose={(property) => put({ property })}
      /> of
    {/if}
    {#if measure !== "back"}
      <PhraseSelect
        label="Event"
        ink="what"
        value={event}
        options={types.map((type) => [type.name, measure === "sum" ? type.noun : done(type)] as const)}
        choose={(event) => put({ event, property: null })}
      />
    {/if}
    within <InputPhrase label="Within days" value={days} most={365} change={(days) => put({ days })} /> days; a
    difference of <PhraseSelect
      label="Minimum detectable effect"
      ink="what"
      value={size}
      options={sizes}
      choose={(size) => put({ size })}
    />
    <Explained term="minimum_detectable_effect" /> would matter
  {/snippet}
  {#snippet picture(answer)}
    {@const { difference, relative, p_value, share } = answer.picture}
    {#if difference}<EffectStrip {difference} {relative} p={p_value} {share} />{/if}
  {/snippet}
</AnalysisPage>
