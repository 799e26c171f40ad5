<script lang="ts">
  import { onMount } from "svelte";
  import { address } from "../lib/address.svelte";
  import { shortcuts } from "../shell/shortcuts.svelte";
  import { GLOSSARY, type Term } from "./glossary";
  import { GUIDES, guide } from "./guides";

  /** The glossary and the guides, as they lie beside the application. */
  let { part }: { part: string } = $props();

  const terms = Object.entries(GLOSSARY as Record<string, Term>).toSorted(([, one], [, other]) =>
    one.name.localeCompare(other.name, "en"),
  );
  const found = $derived(GUIDES.find(([key]) => key === part));

  onMount(() => {
    if (location.hash) document.getElementById(location.hash.slice(1))?.scrollIntoView();
  });
</script>

<div class="grid gap-x-12 gap-y-4 md:grid-cols-[13rem_minmax(0,1fr)]">
  <nav aria-label="Help" class="flex flex-wrap gap-x-5 gap-y-1 md:flex-col">
    <a
      href={address.to("/help")}
      aria-current={part ? undefined : "page"}
      class="aria-[current=page]:font-semibold">Glossary</a
    >
    {#each GUIDES as [key, name] (key)}
      <a
        href={address.to(`/help/${key}`)}
        aria-current={part === key ? "page" : undefined}
        class="no-underline aria-[current=page]:font-semibold">{name}</a
      >
    {/each}
    <button class="cursor-pointer text-left underline" onclick={() => (shortcuts.open = true)}
      >Keyboard shortcuts</button
    >
  </nav>
  {#if found}
    {#await guide(found[0])}
      <p class="soft">Opening …</p>
    {:then html}
      <!-- eslint-disable-next-line svelte/no-at-html-tags -- our own guides, built with the application -->
      <article class="guide max-w-3xl">{@html html}</article>
    {/await}
  {:else if part}
    <div>
      <h1>Help</h1>
      <p>Guide not found. <a href={address.to("/help")}>Open the glossary</a>.</p>
    </div>
  {:else}
    <div>
      <h1>Glossary</h1>
      <dl class="mt-2 max-w-3xl">
        {#each terms as [key, term] (key)}
          <dt id={key} class="mt-4 font-semibold">{term.name}</dt>
          <dd>
            {term.text}
            {#if term.formula}<span class="soft block">{term.formula}</span>{/if}
            {#if term.source}<span class="soft small block">Source: {term.source}.</span>{/if}
          </dd>
        {/each}
      </dl>
    </div>
  {/if}
</div>
