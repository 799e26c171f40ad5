<script lang="ts">
  import { propertyName } from "../lib/names";
  import Explained from "../help/Explained.svelte";
  import AnalysisPage from "../analyses/AnalysisPage.svelte";
  import { put, Reader } from "../analyses/codec";
  import InputPhrase from "../analyses/InputPhrase.svelte";
  import SeriesPhrases from "../analyses/SeriesPhrases.svelte";
  import SplitBy, { by } from "../analyses/SplitBy.svelte";
  import LinePlot from "../charts/LinePlot.svelte";
  import { numbersOf } from "../audiences/editor/values";
  import { address } from "../lib/address.svelte";
  import type { Answer } from "../lib/api/ask";
  import type { Schemas } from "../lib/api/client";
  import { Asked } from "../lib/asked.svelte";
  import { percent, rate } from "../lib/format";
  import { workspace } from "../lib/workspace.svelte";
  import PhraseSelect from "../ui/PhraseSelect.svelte";
  import EffectStrip from "./EffectStrip.svelte";

  /** Whether a run, or all runs of an export, made a difference: those exported against the holdout, chosen by chance. */
  let { of }: { of: { run: number } | { export: number } } = $props();

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
  /** Which way is wanted. */
  const WANTED = [
    ["", "either way"],
    ["more", "to more"],
    ["less", "to less"],
  ] as const;
  type Picture = Answer<"export-effect">["picture"];
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

  const better = $derived((address.get("better") as "more" | "less" | null) ?? null);
  const split = $derived(by(address.get("by")));
  const also = $derived(new Reader().list("also"));

  const effect = new Asked("export-effect", () => ({
    ...of,
    days,
    size,
    metric: measure === "back" ? null : metric(measure),
    ...(better ? { better } : {}),
    ...(split ? { by: split } : {}),
    ...(also.length ? { also: also.map((one) => ({ ...one, measure: "people" as const })) } : {}),
  }));

  function lines({ curve }: Picture) {
    return (["exported", "held"] as const).map((side) => ({
      name: side === "held" ? "holdout" : "exported",
      colour: side === "held" ? "var(--ink-soft)" : "var(--state-active)",
      ...(side === "held" ? { dash: "5 3" } : {}),
      values: curve.map((row) => row[side].mean),
      low: curve.map((row) => row[side].low),
      high: curve.map((row) => row[side].high),
    }));
  }

  function least({ curve }: Picture): number {
    return Math.min(0, ...curve.flatMap(({ exported, held }) => [exported.low ?? 0, held.low ?? 0]));
  }

  function marks({ curve }: Picture) {
    const last = curve.at(-1)?.day ?? 0;
    const every = last > 28 ? 14 : last > 10 ? 7 : 1;
    return curve
      .filter(({ day }) => day % every === 0)
      .map(({ day }) => ({ at: day, text: day === 0 ? "day 0" : String(day) }));
  }

  function metric(measure: "did" | "sum"): Schemas["Metric"] {
    const sum = measure === "sum" && property;
    return { ...(event ? { event } : {}), ...(sum ? { measure: "sum", property } : { measure: "people" }) };
  }
</script>

<AnalysisPage
  asked={effect}
  under={"run" in of ? "Did it change anything?" : "Did it change anything, over all runs?"}
  title="Up to each day after the export"
  name="effect"
>
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
    within <InputPhrase label="Within days" value={days} most={365} change={(days) => put({ days })} /> days,
    <PhraseSelect
      label="Which way is wanted"
      ink="what"
      value={better ?? ""}
      options={WANTED}
      choose={(better) => put({ better: better || null })}
    />; a difference of <PhraseSelect
      label="Minimum detectable effect"
      ink="what"
      value={size}
      options={sizes}
      choose={(size) => put({ size })}
    />
    <Explained term="minimum_detectable_effect" /> would matter. Besides: <SeriesPhrases
      series={also}
      change={(series) => put({ also: series.length ? JSON.stringify(series) : null })}
    />; within groups by <SplitBy
      phrase
      value={address.get("by") ?? ""}
      none="nothing"
      choose={(by) => put({ by: by || null })}
    />
  {/snippet}
  {#snippet picture(answer)}
    {@const data = answer.picture}
    {#if data.curve.length}
      <LinePlot
        label="{data.outcome}, of those exported and of the holdout, up to each day after the export"
        lines={lines(data)}
        xs={data.curve.map(({ day }) => day)}
        marks={marks(data)}
        format={data.share ? percent : rate}
        least={least(data)}
        height={220}
      />
    {/if}
    {#if data.difference}<EffectStrip found={data} />{/if}
  {/snippet}
</AnalysisPage>
