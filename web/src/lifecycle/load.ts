import type { Component } from "svelte";

/** The parts of the lifecycle by name, each loaded on the first visit. The build reads this file: one part per line. */
export const LOAD: Record<string, () => Promise<{ default: Component }>> = {
  "": () => import("./States.svelte"),
  activity: () => import("./Activity.svelte"),
  thresholds: () => import("./Thresholds.svelte"),
  revisions: () => import("./Revisions.svelte"),
  rules: () => import("./RuleSets.svelte"),
  alerts: () => import("./Alerts.svelte"),
};
