<script lang="ts">
  import EventsPhrase from "../EventsPhrase.svelte";
  import { bare, moved, MOST_STEPS, needed, settled, type Step } from "./question";

  /**
   * The steps as phrases of a sentence: each can be changed, left out, and moved, by dragging it or by the arrow keys on its
   * handle.
   */
  let { steps, change }: { steps: Step[]; change: (steps: Step[]) => void } = $props();

  let dragged = $state<number | null>(null);
  let over = $state<number | null>(null);
  let handles = $state<HTMLButtonElement[]>([]);

  const put = (next: Step[]) => change(settled(next));
  const replace = (at: number, step: Step) => put(steps.map((one, index) => (index === at ? step : one)));

  function move(from: number, to: number) {
    if (to < 0 || to >= steps.length) return;
    put(moved(steps, from, to));
    requestAnimationFrame(() => handles[to]?.focus());
  }

  function key(event: KeyboardEvent, at: number) {
    const by = { ArrowLeft: -1, ArrowUp: -1, ArrowRight: 1, ArrowDown: 1 }[event.key];
    if (!by) return;
    event.preventDefault();
    move(at, at + by);
  }
</script>

{#each steps as step, at (at)}
  {#if at === 1}, then{:else if at > 1}, then{/if}
  <span
    class={over === at && dragged !== at ? "outline-2 outline-(--accent)" : ""}
    role="group"
    aria-label="Step {at + 1}"
    draggable="true"
    ondragstart={(event) => {
      dragged = at;
      event.dataTransfer?.setData("text/plain", String(at));
    }}
    ondragover={(event) => {
      event.preventDefault();
      over = at;
    }}
    ondragend={() => (dragged = over = null)}
    ondrop={(event) => {
      event.preventDefault();
      if (dragged !== null) move(dragged, at);
      dragged = over = null;
    }}
    ><button
      bind:this={handles[at]}
      data-handle
      class="soft cursor-grab px-0.5 font-sans text-[13px] hover:text-(--accent)"
      aria-label="Step {at + 1} of {steps.length}: move with the arrow keys"
      title="Drag, or move with the arrow keys"
      onkeydown={(event) => key(event, at)}>⠿</button
    ><EventsPhrase
      label="Step {at + 1}"
      selection={step}
      done
      change={({ event, events, any_event, where }) =>
        replace(at, { ...step, event, events, any_event, where })}
    />{#if step.optional}&nbsp;(optional)<button
        class="soft mx-0.5 cursor-pointer hover:text-(--accent)"
        aria-label="Make step {at + 1} required"
        onclick={() => replace(at, needed(step))}>×</button
      >{/if}{#if at > 0}{#if step.without}
        without <EventsPhrase
          label="Excluded before step {at + 1}"
          selection={{ events: step.without }}
          filtered={false}
          change={({ event, events }) =>
            replace(at, event || events ? { ...step, without: events ?? [event!] } : bare(step))}
        /> in between<button
          class="soft mx-0.5 cursor-pointer hover:text-(--accent)"
          aria-label="Remove exclusion before step {at + 1}"
          onclick={() => replace(at, bare(step))}>×</button
        >{/if}{/if}{#if steps.length > 2}<button
        class="soft mx-0.5 cursor-pointer hover:text-(--accent)"
        aria-label="Remove step {at + 1}"
        onclick={() => put(steps.filter((_, index) => index !== at))}>×</button
      >{/if}</span
  >
{/each}
{#if steps.length < MOST_STEPS}
  <button
    class="small cursor-pointer font-sans underline decoration-(--rule-strong) underline-offset-3 hover:text-(--accent)"
    onclick={() => put([...steps, needed(bare(steps.at(-1)!))])}>+ Add step</button
  >
{/if}
