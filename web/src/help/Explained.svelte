<script lang="ts">
  import { Popover } from "@skeletonlabs/skeleton-svelte";
  import { address } from "../lib/address.svelte";
  import { GLOSSARY, type Term, type TermKey } from "./glossary";

  /** A mark beside a figure with a technical name, which explains it on demand. */
  let { term }: { term: TermKey } = $props();

  let open = $state(false);
  const about = $derived<Term>(GLOSSARY[term]);
</script>

<Popover {open} onOpenChange={(details) => (open = details.open)}>
  <Popover.Trigger
    class="soft inline-flex h-4 w-4 cursor-pointer items-center justify-center rounded-full border border-(--rule-strong) align-middle font-sans text-[0.65rem] leading-none font-normal hover:text-(--accent)"
    aria-label="What is {about.name}?">?</Popover.Trigger
  >
  <Popover.Positioner class="z-40">
    <Popover.Content class="panel max-w-80 text-left font-sans text-[15px] font-normal whitespace-normal">
      {#if open}
        <Popover.Title class="mb-1 font-semibold">{about.name}</Popover.Title>
        <p>{about.text}</p>
        {#if about.formula}<p class="soft small mt-2">{about.formula}</p>{/if}
        {#if about.source}<p class="soft small mt-1">Source: {about.source}.</p>{/if}
        <p class="small mt-2"><a href={address.to("/help", {}) + `#${term}`}>Glossary</a></p>
      {/if}
    </Popover.Content>
  </Popover.Positioner>
</Popover>
