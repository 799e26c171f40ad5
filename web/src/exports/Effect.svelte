<script lang="ts">
  import Explained from "../help/Explained.svelte";
  import AnalysisPage from "../analyses/AnalysisPage.svelte";
  import { put, Reader } from "../analyses/codec";
  import InputPhrase from "../analyses/InputPhrase.svelte";
  import SeriesPhrases from "../analyses/SeriesPhrases.svelte";
  import SplitBy, { by } from "../analyses/SplitBy.svelte";
  import LinePlot from "../charts/LinePlot.svelte";
  import { address } from "../lib/address.svelte";
  import type { Answer } from "../lib/api/ask";
  import { Asked } from "../lib/asked.svelte";
  import { percent, rate } from "../lib/format";
  import PhraseSelect from "../ui/PhraseSelect.svelte";
  import EffectStrip from "./EffectStrip.svelte";
  import { Measured, type Outcome } from "./measure.svelte";
  import MeasurePhrase from "./MeasurePhrase.svelte";
  import SumPhrase from "./SumPhrase.svelte";

  /**
   * Whether a run, or all runs of an export, made a difference: those exported against the holdout, chosen by chance.
   * Or whether all marketing did, against a standing holdout.
   */
  let { of }: { of: { run: number } | { export: number } | { standing: number } } = $props();

  const DAYS = 14;
  /** The smallest difference that matters: of shares, and of means as a part of that of the holdout. */
  const SIZES = { share: [0.005, 0.01, 0.02, 0.05, 0.1], sum: [0.02, 0.05, 0.1, 0.2, 0.5] };
  const USUAL = { share: 0.02, sum: 0.1 };
  /** Which way is wanted. */
  const WANTED = [
    ["", "either direction"],
    ["more", "increase wanted"],
    ["less", "decrease wanted"],
  ] as const;
  /** What all marketing is measured by, and what of it is always told besides. */
  const OF_ALL = [
    ["active", "share active"],
    ["state", "share new or active at the end"],
    ["sum", "revenue per person"],
    ["back", "share reactivated"],
  ] as const;
  const ALWAYS = ["active", "state", "sum"] as const;
  type Picture = Answer<"export-effect">["picture"];
  // One page is about one of them.
  // svelte-ignore state_referenced_locally
  const standing = "standing" in of;
  const measured = new Measured(standing ? "active" : "back");
  const days = $derived(standing ? null : Number(address.get("days") ?? DAYS));
  const kind = $derived(measured.measure === "sum" ? "sum" : "share");
  const size = $derived(Number(address.get("size") ?? USUAL[kind]));
  const sizes = $derived(
    SIZES[kind].map(
      (one) =>
        [
          String(one),
          kind === "sum" ? `${percent(one)} of the control mean` : `${(one * 100).toFixed(1)} pp`,
        ] as const,
    ),
  );
  const better = $derived((address.get("better") as "more" | "less" | null) ?? null);
  const split = $derived(by(address.get("by")));
  const series = $derived(new Reader().list("also"));
  const also = $derived.by((): Outcome[] => {
    const others = ALWAYS.filter((one) => one !== measured.measure && (one !== "sum" || measured.property));
    return [
      ...(standing ? others.map((one) => measured.of(one)) : []),
      ...series.map((one) => ({ ...one, measure: "people" as const })),
    ];
  });

  const effect = new Asked("export-effect", () => ({
    ...of,
    ...(days === null ? {} : { days }),
    size,
    metric: measured.metric,
    ...(better ? { better } : {}),
    ...(split ? { by: split } : {}),
    ...(also.length ? { also } : {}),
  }));

  const held = standing ? "holdout" : "holdout";
  const others = standing ? "others" : "exported";
  const heading = () => {
    if (standing) return "Effect of all marketing";
    return "run" in of ? "Effect of this run" : "Effect of all runs";
  };

  function lines({ curve }: Picture) {
    return (["exported", "held"] as const).map((side) => ({
      name: side === "held" ? held : others,
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
</script>

<AnalysisPage
  asked={effect}
  under={heading()}
  title={standing ? "Cumulative, by day since the holdout started" : "Cumulative, by day since the export"}
  name="effect"
>
  {#snippet question()}
    {#if standing}
      Effect of all marketing on <PhraseSelect
        label="Measured by"
        ink="what"
        value={measured.measure}
        options={OF_ALL}
        choose={(measure) => put({ measure, size: null })}
      /> by the end of the holdout;
    {:else}
      Effect of the export on <MeasurePhrase {measured} /> within <InputPhrase
        label="Within days"
        value={days!}
        most={365}
        change={(days) => put({ days })}
      /> days,
    {/if}
    <PhraseSelect
      label="Wanted direction"
      ink="what"
      value={better ?? ""}
      options={WANTED}
      choose={(better) => put({ better: better || null })}
    />{#if standing}; revenue is <SumPhrase {measured} />{/if}; a difference of <PhraseSelect
      label="Minimum detectable effect"
      ink="what"
      value={size}
      options={sizes}
      choose={(size) => put({ size })}
    />
    <Explained term="minimum_detectable_effect" /> would matter. Besides: <SeriesPhrases
      {series}
      change={(series) => put({ also: series.length ? JSON.stringify(series) : null })}
    />; split by <SplitBy
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
        label="{data.outcome}, {others} and {held}, up to each day"
        lines={lines(data)}
        xs={data.curve.map(({ day }) => day)}
        marks={marks(data)}
        format={data.share ? percent : rate}
        least={least(data)}
        height={220}
      />
    {/if}
    {#if data.difference}<EffectStrip
        found={data}
        others={standing ? "not in the holdout" : "exported"}
      />{/if}
  {/snippet}
</AnalysisPage>
