<script lang="ts">
  import type { Snippet } from "svelte";
  import type { Selection } from "../audiences/definition";
  import { frequentTypes } from "../audiences/editor/values";
  import EventsPhrase from "./EventsPhrase.svelte";
  import { MOST_SERIES } from "./series";

  /** Events beside each other, as phrases of a sentence: each can be changed or left out, and another added. */
  let {
    series,
    change,
    joint,
  }: {
    series: Selection[];
    change: (series: Selection[]) => void;
    /** Between two of them, instead of "and". */
    joint?: Snippet;
  } = $props();

  function add() {
    const taken = series.map(({ event }) => event);
    const next = frequentTypes().find((name) => !taken.includes(name)) ?? taken[0] ?? "";
    change([...series, { event: next }]);
  }
</script>

{#each series as selection, index (index)}
  {#if index > 0}
    {#if joint && series.length === 2}{@render joint()}{:else}and{/if}
  {/if}
  <EventsPhrase
    label="Event {index ? `, ${index + 1}` : ''}"
    {selection}
    done
    change={(changed) => change(series.map((one, at) => (at === index ? changed : one)))}
  />{#if series.length > 1}<button
      class="soft mx-1 cursor-pointer hover:text-(--accent)"
      aria-label="Remove event {index + 1}"
      onclick={() => change(series.filter((_, at) => at !== index))}>×</button
    >{/if}
{/each}
{#if series.length < MOST_SERIES}
  <button
    class="small cursor-pointer font-sans underline decoration-(--rule-strong) underline-offset-3 hover:text-(--accent)"
    onclick={add}>+ Add event</button
  >
{/if}
