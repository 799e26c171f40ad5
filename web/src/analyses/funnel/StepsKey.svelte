<script lang="ts">
  import { address } from "../../lib/address.svelte";
  import type { Answer } from "../../lib/api/ask";
  import { duration, number } from "../../lib/format";
  import { audienceOf, peopleOf } from "../../lib/groups";
  import { selectionText } from "../codec";
  import { bare, needed, openedBy, type Step } from "./question";

  /** Step by step how long it took, who stopped there and what can be done about it, and what may be asked of the step. */
  let {
    answer,
    steps,
    change,
  }: { answer: Answer<"funnel">; steps: Step[]; change: (steps: Step[]) => void } = $props();

  /** How soon something else was done by those who stopped, by what each is called. */
  const SOON = { "the next hour": "1 hours", "the same visit": null, "the next day": "1 days" };
  const data = $derived(answer.picture);
  const first = $derived(steps[0]?.event ?? steps[0]?.events?.[0] ?? "");

  const changed = (at: number, more: Partial<Step>) =>
    change(steps.map((one, index) => (index === at ? { ...one, ...more } : one)));
</script>

<ol>
  {#each data.rows[0]!.steps as step, at (at)}
    {@const stopped = openedBy(answer, at, "lost")}
    <li class="border-b border-(--rule) py-1.5">
      <p>
        <b class="tabular-nums">{at + 1}</b>
        {data.steps[at]}{#if data.optional.includes(at)}<span class="soft small">(optional)</span
          >{/if}{#if step.wait}<span class="soft small">
            , median {duration(step.wait.median)} (middle 50%: {duration(step.wait.lower)} to {duration(
              step.wait.upper,
            )})</span
          >{/if}
      </p>
      {#if stopped && step.lost}
        <p class="small flex flex-wrap gap-x-3">
          <a href={peopleOf([stopped])}>{number(step.lost)} dropped off</a>
          <a href={audienceOf([stopped])}>Create audience</a>
        </p>
        <p class="soft small">
          What they did next: {#each Object.entries(SOON) as [words, within], index (words)}{index
              ? ", "
              : ""}<a
              href={address.to("/analyses/next-events", {
                event: selectionText(needed(bare(steps[at]!))),
                from: data.from,
                within,
                whom: JSON.stringify(stopped),
              })}>{words}</a
            >{/each}
        </p>
      {/if}
      {#if step.went_on !== null}
        {@const on = openedBy(answer, at, "on")}
        <p class="small">
          <a href={on && peopleOf([on])}>{number(step.went_on)} continued</a>
        </p>
      {/if}
      {#if at > 0}
        <p class="soft small mt-1.5 flex flex-wrap gap-x-3 gap-y-2">
          {#if !steps[at]?.without}
            <button class="cursor-pointer underline" onclick={() => changed(at, { without: [first] })}
              >Exclude events before this step</button
            >
          {/if}
          {#if at < data.steps.length - 1 && !steps[at]?.optional}
            <button class="cursor-pointer underline" onclick={() => changed(at, { optional: true })}
              >Make optional</button
            >
          {/if}
        </p>
      {/if}
    </li>
  {/each}
</ol>
