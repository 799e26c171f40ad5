<script lang="ts" module>
  import { remember } from "../../lib/recent";
  import { eventOptions } from "../editor/choices";
  import { frequentTypes } from "../editor/values";
  import type { Order } from "../definition";
  import type { Condition, PhraseProps } from "./condition";

  const WITHIN = { days: 7 };

  /** What is likely to come next: the most frequent of the others. */
  function after(event: string): string {
    return frequentTypes().find((name) => name !== event) ?? event;
  }

  /** Whether the first step has to be the first of its kind. */
  function firstTime(order: Order) {
    const [begin, ...rest] = order.steps;
    const { first, ...any } = begin!;
    return {
      text: first ? "… starting with any occurrence" : "… starting with the first occurrence",
      node: { order: { ...order, steps: [first ? any : { ...any, first: true }, ...rest] } },
    };
  }

  export const condition: Condition = {
    keys: ["order"],
    phrases: { link: "How it follows", within: "Within", total: "All within" },
    offers: [
      {
        about: "what",
        text: "who did one thing and then another …",
        ask: "First step: event type",
        options: eventOptions,
        begin: (event) => {
          remember("event", event);
          return { order: { steps: [{ event }, { event: after(event), within: WITHIN }] } };
        },
        then: "events",
        thenAt: "order.steps[1]",
      },
      {
        about: "what",
        text: "who did one thing but then not another…",
        ask: "First step: event type",
        options: eventOptions,
        begin: (event) => {
          remember("event", event);
          return { order: { steps: [{ event }], then_not: { event: after(event), within: WITHIN } } };
        },
        then: "events",
        thenAt: "order.then_not",
      },
    ],
    selections: ({ order }) => [
      ...order!.steps.map((_, index) => `order.steps[${index}]`),
      ...(order!.then_not ? ["order.then_not"] : []),
    ],
    actions: (node, next) => {
      const order = node.order!;
      const step = {
        text: "… and then another step",
        node: { order: { ...order, steps: [...order.steps, next] } },
      };
      const all = { text: "… all within a time limit", node: { order: { ...order, within: { days: 14 } } } };
      const steps = order.steps.length > 1 && !order.within ? [step, all] : [step];
      const more = [...steps, firstTime(order)];
      if (order.then_not) return more;
      const not = { ...order, then_not: { ...next, within: WITHIN } };
      return [...more, { text: "… and then not within a time limit", node: { order: not } }];
    },
  };
</script>

<script lang="ts">
  import type { Step, Within } from "../definition";
  import LinkEditor from "../editor/LinkEditor.svelte";
  import WithinEditor from "../editor/WithinEditor.svelte";

  /** How a step follows the one before, or within which time nothing may follow. */
  let { slot, piece, node, put, drop, close }: PhraseProps<Step & Order["then_not"]> = $props();

  const order = $derived(node.order!);
</script>

{#if slot === "link"}
  <LinkEditor
    step={piece}
    change={put as (step: Step) => void}
    remove={order.steps.length > 2 || order.then_not ? drop : undefined}
    {close}
  />
{:else if slot === "total"}
  <WithinEditor within={order.within!} change={put as (within: Within) => void} {close} />
  <div class="mt-3"><button class="quiet" onclick={drop}>No time limit</button></div>
{:else}
  <WithinEditor within={order.then_not!.within} change={(within) => put({ ...piece, within })} {close} />
  <div class="mt-3"><button class="quiet" onclick={drop}>Remove</button></div>
{/if}
