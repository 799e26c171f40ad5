<script lang="ts">
  import { address } from "../lib/address.svelte";
  import Panel from "../ui/Panel.svelte";
  import { GLOSSARY, type Term, type TermKey } from "./glossary";

  /** A mark beside a figure with a technical name, which explains it on demand. */
  let { term }: { term: TermKey } = $props();

  const about = $derived<Term>(GLOSSARY[term]);
</script>

<Panel
  button="soft -m-[0.3125rem] inline-flex size-6.5 cursor-pointer items-center justify-center align-middle font-sans text-[0.65rem] leading-none font-normal hover:text-(--accent)"
  panel="max-w-80 text-left font-sans text-[15px] font-normal whitespace-normal"
  label="What is {about.name}?"
  title={about.name}
>
  {#snippet trigger()}<span
      class="inline-flex size-4 items-center justify-center rounded-full border border-(--rule-strong)"
      >?</span
    >{/snippet}
  <p>{about.text}</p>
  {#if about.formula}<p class="soft small mt-2">{about.formula}</p>{/if}
  {#if about.source}<p class="soft small mt-1">Source: {about.source}.</p>{/if}
  <p class="small mt-2"><a href={address.to("/help", {}) + `#${term}`}>Glossary</a></p>
</Panel>
