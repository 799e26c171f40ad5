<script lang="ts">
  import type { Step } from "../definition";
  import EventsEditor from "./EventsEditor.svelte";
  import { frequentTypes } from "./values";
  import WithinEditor from "./WithinEditor.svelte";

  /** How a step follows the one before. */
  let {
    step,
    change,
    remove,
    close,
  }: { step: Step; change: (step: Step) => void; remove?: () => void; close: () => void } = $props();

  const FLAGS = [
    ["next", "as the very next event"],
    ["same_visit", "in the same visit"],
    ["other_day", "on another day"],
  ] as const;

  function set<Name extends keyof Step>(name: Name, value: Step[Name] | undefined) {
    const next = { ...step, [name]: value };
    if (value === undefined) delete next[name];
    if (!next.next) delete next.among;
    // A step follows on another day or more than a time later, not both.
    if (name === "after") delete next.other_day;
    if (name === "other_day") delete next.after;
    change(next);
  }

  /** Among which events it is the next, to begin with: the step itself. */
  const itself = $derived(step.events ?? [step.event ?? frequentTypes()[0] ?? ""]);
</script>

<label class="flex items-center gap-2 py-0.5">
  <input
    type="checkbox"
    checked={Boolean(step.after)}
    onchange={(event) => set("after", event.currentTarget.checked ? { days: 1 } : undefined)}
  />
  after a minimum delay {#if step.after}<WithinEditor
      within={step.after}
      change={(after) => set("after", after)}
      {close}
    />{/if}
</label>
<label class="flex items-center gap-2 py-0.5">
  <input
    type="checkbox"
    checked={Boolean(step.within)}
    onchange={(event) => set("within", event.currentTarget.checked ? { days: 7 } : undefined)}
  />
  within a time limit {#if step.within}<WithinEditor
      within={step.within}
      change={(within) => set("within", within)}
      {close}
    />{/if}
</label>
{#each FLAGS as [name, text] (name)}
  <label class="flex items-center gap-2 py-0.5">
    <input
      type="checkbox"
      checked={step[name] ?? false}
      onchange={(event) => set(name, event.currentTarget.checked || undefined)}
    />
    {text}
  </label>
  {#if name === "next" && step.next}
    <label class="ml-6 flex items-center gap-2 py-0.5">
      <input
        type="checkbox"
        checked={Boolean(step.among)}
        onchange={(event) => set("among", event.currentTarget.checked ? itself : undefined)}
      />
      among selected events only{step.among ? ":" : ""}
    </label>
    {#if step.among}
      <div class="ml-6" role="group" aria-label="Next among these events">
        <EventsEditor
          selection={{ events: step.among }}
          change={({ event, events }) => set("among", events ?? (event ? [event] : undefined))}
          {close}
        />
      </div>
    {/if}
  {/if}
{/each}
{#if remove}<button class="quiet mt-2" onclick={remove}>Remove this step</button>{/if}
