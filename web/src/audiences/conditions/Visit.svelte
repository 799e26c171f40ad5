<script lang="ts" module>
  import { remember } from "../../lib/recent";
  import { eventOptions } from "../editor/choices";
  import { deedActions } from "../editor/deeds";
  import { frequentTypes } from "../editor/values";
  import type { Condition, PhraseProps } from "./condition";

  export const condition: Condition = {
    keys: ["visit"],
    phrases: { visit: "Within one visit", count: "How often in the visit" },
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
    actions: (node, next) => deedActions(node, "visit.all", next, 1),
  };
</script>

<script lang="ts">
  import { workspace } from "../../lib/workspace.svelte";
  import HowOften from "../editor/HowOften.svelte";
  import type { Deed } from "../definition";

  /** What a visit is, and how often something was done in it. */
  let { slot, piece, node, put, close }: PhraseProps<Deed> = $props();
</script>

{#if slot === "count"}
  <HowOften {piece} {put} {close} units={false} />
{:else}
  <p class="soft small max-w-64">
    {node.visit!.all.length === 1 ? "It happens" : "All of it happens"} in one visit (ends after {workspace
      .info?.visit_gap_minutes} minutes without an event). Use the menu at the end of the line to add, remove or
    count events.
  </p>
{/if}
