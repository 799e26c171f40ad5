<script lang="ts" module>
  import { remember } from "../../lib/recent";
  import { eventOptions } from "../editor/choices";
  import type { Condition, PhraseProps } from "./condition";

  export const condition: Condition = {
    keys: ["first", "last"],
    phrases: { moment: "Which time" },
    offers: [
      {
        about: "what",
        text: "who did it for the first time …",
        ask: "Event type",
        options: eventOptions,
        begin: (event) => {
          remember("event", event);
          return { first: { event, window: { last_days: 10 } } };
        },
        then: "window",
      },
    ],
    selections: (node) => [node.first ? "first" : "last"],
    moments: (node) => [node.first ? "first" : "last"],
  };
</script>

<script lang="ts">
  import type { Moment } from "../definition";
  import Choice from "../editor/Choice.svelte";

  /** The first time or the last. */
  let { path, piece, change, close }: PhraseProps<Moment> = $props();

  const options = ["first", "last"].map((value) => ({ value, text: `the ${value} time` }));
</script>

<Choice label="Which time" value={path} {options} choose={(time) => change({ [time]: piece })} {close} />
