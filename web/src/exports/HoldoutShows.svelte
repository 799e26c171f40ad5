<script lang="ts">
  import { put } from "../analyses/codec";
  import InputPhrase from "../analyses/InputPhrase.svelte";
  import { address } from "../lib/address.svelte";
  import type { Schemas } from "../lib/api/client";
  import { Asked } from "../lib/asked.svelte";
  import { Measured } from "./measure.svelte";
  import MeasurePhrase from "./MeasurePhrase.svelte";

  /** What the holdout of an export can show, before anything is sent. */
  let {
    audience,
    holdout,
    people,
    every,
  }: {
    audience: number;
    holdout: Schemas["Holdout"];
    /** How many would be exported or held back. */
    people: number;
    /** How often the export runs. */
    every: string | null;
  } = $props();

  const UNITS = ["day", "week", "month"] as const;
  const DAYS = 14;
  const share = $derived(holdout.share ?? Math.min(1, (holdout.number ?? 0) / Math.max(1, people)));
  const measured = new Measured("back");
  const days = $derived(Number(address.get("days") ?? DAYS));
  const found = new Asked("holdout-size", () => ({
    ...{ audience, people, share, days },
    metric: measured.metric,
    every: UNITS.find((unit) => unit === every) ?? null,
  }));
</script>

<p class="says mt-3" data-testid="holdout-measure">
  Minimum detectable effect on <MeasurePhrase {measured} labelled="in advance" /> within <InputPhrase
    label="Within days, in advance"
    value={days}
    most={365}
    change={(days) => put({ days })}
  /> days:
</p>
{#if found.data}<p class="soft small mt-1" data-testid="holdout-shows">{found.data.finding}</p>{/if}
{#if found.problem}<p role="alert" class="small mt-1 text-(--alarm)">{found.problem.detail}</p>{/if}
