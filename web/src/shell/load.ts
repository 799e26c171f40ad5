/** The places by the beginning of their addresses, each loaded on the first visit. The build reads this file: one place per line. */
export const LOAD = {
  account: () => import("../account/Account.svelte"),
  analyses: () => import("../analyses/Analyses.svelte"),
  audiences: () => import("../audiences/Audiences.svelte"),
  "audiences/*": () => import("../audiences/AudienceEditor.svelte"),
  data: () => import("../data/Data.svelte"),
  exports: () => import("../exports/Exports.svelte"),
  help: () => import("../help/Help.svelte"),
  lifecycle: () => import("../lifecycle/Lifecycle.svelte"),
  people: () => import("../people/People.svelte"),
  "people/*": () => import("../people/Person.svelte"),
};
