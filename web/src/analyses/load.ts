import type { Component } from "svelte";

/** The analyses by name, each loaded on the first visit. The build reads this file: one analysis per line. */
export const LOAD: Record<string, () => Promise<{ default: Component }>> = {
  trends: () => import("./trends/Trends.svelte"),
  ranking: () => import("./ranking/Ranking.svelte"),
  "next-events": () => import("./next-events/NextEvents.svelte"),
  frequency: () => import("./frequency/Frequency.svelte"),
  visits: () => import("./visits/Visits.svelte"),
  experience: () => import("./experience/Experience.svelte"),
  retention: () => import("./retention/Retention.svelte"),
  "cohort-value": () => import("./cohort-value/CohortValue.svelte"),
  funnel: () => import("./funnel/Funnel.svelte"),
  change: () => import("./change/Change.svelte"),
  chance: () => import("./chance/Chance.svelte"),
  overlap: () => import("./overlap/Overlap.svelte"),
  breakdown: () => import("./breakdown/Breakdown.svelte"),
  "before-after": () => import("./before-after/BeforeAfter.svelte"),
};
