<script lang="ts">
  import { Popover } from "@skeletonlabs/skeleton-svelte";
  import type { Node } from "../definition";
  import { said } from "../../lib/toasts.svelte";
  import { CONDITIONS } from "../conditions";
  import { ABOUT, type About, type Offer } from "../conditions/condition";

  /** The end of a sentence, where it can go on. */
  let { word, add }: { word: string; add: (node: Node) => void } = $props();

  const OFFERS = CONDITIONS.flatMap(({ offers }) => offers);
  const LINK =
    "mx-1 cursor-pointer border-b border-dashed border-(--rule-strong) hover:border-(--accent) hover:text-(--accent)";

  let open = $state(false);

  async function choose(offer: Offer) {
    open = false;
    const node = await offer.begin();
    if (node) add(node);
    else said("There is nothing yet that such a condition could be about");
  }

  /** A condition copied here or in another audience. */
  async function paste() {
    open = false;
    try {
      const node = JSON.parse(await navigator.clipboard.readText()) as Node;
      if (typeof node !== "object" || Object.keys(node).length !== 1) throw new Error();
      add(node);
    } catch {
      said("What has been copied is no condition");
    }
  }
</script>

<span class="soft">{word}</span>
{#each OFFERS.filter(({ first }) => first) as offer (offer.text)}
  <button class={LINK} onclick={() => choose(offer)}>{offer.text}</button>
{/each}
<Popover {open} onOpenChange={(details) => (open = details.open)}>
  <Popover.Trigger class={LINK}>more …</Popover.Trigger>
  <Popover.Positioner class="z-30">
    <Popover.Content class="panel grid grid-cols-1 gap-x-8 gap-y-3 font-sans text-[15px] sm:grid-cols-3">
      {#each Object.entries(ABOUT) as [ink, about] (ink)}
        <div>
          <p class="ink-{ink} small mb-2 inline-block">{about}</p>
          {#each OFFERS.filter((offer) => offer.about === (ink as About)) as offer (offer.text)}
            <button
              class="block cursor-pointer py-1 text-left hover:text-(--accent)"
              onclick={() => choose(offer)}>{offer.text}</button
            >
          {/each}
          {#if ink === "state"}
            <p class="soft small mt-4 mb-1">or</p>
            <button
              class="block cursor-pointer py-1 text-left hover:text-(--accent)"
              onclick={() => {
                open = false;
                add({ any: [] });
              }}>at least one of …</button
            >
            <button class="block cursor-pointer py-1 text-left hover:text-(--accent)" onclick={paste}
              >paste a copied condition</button
            >
          {/if}
        </div>
      {/each}
    </Popover.Content>
  </Popover.Positioner>
</Popover>
