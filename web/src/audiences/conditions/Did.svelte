<script lang="ts" module>
  import { remember } from "../../lib/recent";
  import { eventOptions } from "../editor/choices";
  import type { Condition, PhraseProps } from "./condition";

  export const condition: Condition = {
    keys: ["did"],
    phrases: { count: "How often" },
    offers: [
      {
        about: "what",
        text: "who did …",
        first: true,
        ask: "Event type",
        options: eventOptions,
        begin: (event) => {
          remember("event", event);
          return { did: { event, count: { at_least: 1 }, window: { last_days: 30 } } };
        },
        then: "count",
      },
    ],
    selections: () => ["did"],
    /** "did" turns to "did not" and back; a measure has no such opposite. */
    opposite: ({ did }) =>
      did!.measure
        ? null
        : { did: { ...did!, count: did!.count?.exactly === 0 ? { at_least: 1 } : { exactly: 0 } } },
  };
</script>

<script lang="ts">
  import HowOften from "../editor/HowOften.svelte";
  import type { Did } from "../definition";

  let { piece, put, close }: PhraseProps<Did> = $props();
</script>

<HowOften {piece} {put} {close} />
