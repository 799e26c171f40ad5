<script lang="ts">
  import type { Schemas } from "../lib/api/client";
  import { Asked } from "../lib/asked.svelte";

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
  const share = $derived(holdout.share ?? Math.min(1, (holdout.number ?? 0) / Math.max(1, people)));
  const found = new Asked("holdout-size", () => ({
    ...{ audience, people, share },
    every: UNITS.find((unit) => unit === every) ?? null,
  }));
</script>

{#if found.data}<p class="soft small mt-2" data-testid="holdout-shows">{found.data.finding}</p>{/if}
