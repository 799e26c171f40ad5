<script lang="ts">
  import type { Step } from "../definition";
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

  function set(name: "within" | (typeof FLAGS)[number][0], value: Step["within"] | true | undefined) {
    const next = { ...step, [name]: value };
    if (value === undefined) delete next[name];
    change(next);
  }
</script>

<label class="flex items-center gap-2 py-0.5">
  <input
    type="checkbox"
    checked={Boolean(step.within)}
    onchange={(event) => set("within", event.currentTarget.checked ? { days: 7 } : undefined)}
  />
  within a time {#if step.within}<WithinEditor
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
{/each}
{#if remove}<button class="quiet mt-2" onclick={remove}>Remove this step</button>{/if}
