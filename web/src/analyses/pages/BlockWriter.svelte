<script lang="ts">
  import type { Snippet } from "svelte";
  import type { Block } from "./pages";

  /** A block while the page is written: its words, or what it shows, with its place and a way to take it off. */
  let {
    block = $bindable(),
    place,
    last,
    move,
    remove,
    children,
  }: {
    block: Block;
    place: number;
    last: boolean;
    move: (by: 1 | -1) => void;
    remove: () => void;
    /** What an analysis or an audience shows. */
    children: Snippet;
  } = $props();

  const NAMES = { heading: "heading", text: "text", analysis: "analysis", audience: "audience" };
  const said = $derived(`${NAMES[block.kind]}, block ${place + 1}`);
</script>

<div class="border-l-2 border-(--rule-strong) pl-4" data-testid="block-writer">
  <p class="soft small flex flex-wrap gap-x-4">
    <span class="first-letter:uppercase">{NAMES[block.kind]}</span>
    <button
      class="cursor-pointer underline"
      disabled={place === 0}
      aria-label="Move up: {said}"
      onclick={() => move(-1)}>Move up</button
    >
    <button
      class="cursor-pointer underline"
      disabled={last}
      aria-label="Move down: {said}"
      onclick={() => move(1)}>Move down</button
    >
    <button class="cursor-pointer underline" aria-label="Remove: {said}" onclick={remove}>Remove</button>
  </p>
  {#if block.kind === "heading"}
    <input
      class="mt-1 w-full font-serif text-[1.2rem]"
      aria-label={said}
      maxlength="255"
      bind:value={block.text}
    />
  {:else if block.kind === "text"}
    <textarea class="mt-1 w-full" rows="4" aria-label={said} maxlength="10000" bind:value={block.text}
    ></textarea>
  {:else}{@render children()}{/if}
</div>
