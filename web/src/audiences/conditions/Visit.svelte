<script lang="ts" module>
  import { remember } from "../../lib/recent";
  import { eventOptions } from "../editor/choices";
  import { withoutPiece } from "../editor/editing";
  import { frequentTypes, namesOf } from "../editor/values";
  import type { Condition, PhraseProps } from "./condition";

  export const condition: Condition = {
    keys: ["visit"],
    phrases: { visit: "Within one visit" },
    offers: [
      {
        about: "what",
        text: "who did things within one visit …",
        ask: "Event type",
        options: eventOptions,
        begin: (event) => {
          remember("event", event);
          const next = frequentTypes().find((name) => name !== event) ?? event;
          return { visit: { all: [{ event }, { event: next }], window: { last_days: 90 } } };
        },
        then: "events",
        thenAt: "visit.all[1]",
      },
    ],
    selections: (node) => node.visit!.all.map((_, index) => `visit.all[${index}]`),
    actions: (node, next) => {
      const visit = node.visit!;
      const more = {
        text: "Add something to the visit",
        node: { visit: { ...visit, all: [...visit.all, next] } },
      };
      if (visit.all.length === 1) return [more];
      const fewer = visit.all.map((one, index) => ({
        text: `Leave out ${namesOf(one)}`,
        node: withoutPiece(node, `visit.all[${index}]`),
      }));
      return [more, ...fewer];
    },
  };
</script>

<script lang="ts">
  import { workspace } from "../../lib/workspace.svelte";

  /** What a visit is. */
  let { node }: PhraseProps<unknown> = $props();
</script>

<p class="soft small max-w-64">
  {node.visit!.all.length === 1 ? "It happens" : "All of it happens"} in the same visit, which ends after {workspace
    .info?.visit_gap_minutes} minutes without an event. Things are added and left out in the menu at the end of
  the line.
</p>
