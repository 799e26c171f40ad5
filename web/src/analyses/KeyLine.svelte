<script lang="ts">
  import type { Snippet } from "svelte";
  import Shortened from "../ui/Shortened.svelte";

  /** One group beside a picture: its colour, its name, a figure, and what else is told of it below. */
  let {
    name,
    colour,
    figure,
    strong = false,
    chosen = false,
    choose,
    children,
  }: {
    name: string;
    colour: string;
    figure?: string;
    /** Whether the figure is what the group is told by. */
    strong?: boolean;
    /** Whether it is the one that is drawn, where it is one at a time. */
    chosen?: boolean;
    /** Has it drawn. */
    choose?: (() => void) | null;
    children?: Snippet;
  } = $props();
</script>

<li class="border-b border-(--rule) py-1.5">
  <div class="flex items-baseline gap-2">
    <span class="inline-block h-3 w-3 shrink-0" style="background: {colour}" aria-hidden="true"></span>
    {#if choose}
      <button
        class="cursor-pointer text-left {chosen ? 'font-semibold' : 'underline'}"
        aria-pressed={chosen}
        onclick={choose}><Shortened text={name} /></button
      >
    {:else}<span><Shortened text={name} /></span>{/if}
    {#if figure !== undefined}
      <span class="ml-auto whitespace-nowrap tabular-nums {strong ? 'font-semibold' : ''}">{figure}</span>
    {/if}
  </div>
  {@render children?.()}
</li>
