<script lang="ts">
  import { Popover } from "@skeletonlabs/skeleton-svelte";
  import type { Node } from "../definition";
  import { isCondition, parsed } from "../../lib/shapes";
  import { said } from "../../lib/toasts.svelte";
  import { CONDITIONS } from "../conditions";
  import { ABOUT, type About, type Offer } from "../conditions/condition";
  import Choice, { type Option } from "./Choice.svelte";
  import { opening } from "./opening";

  /** The end of a sentence, where it can go on: a condition is added once its first choice has been made. */
  let { word, place, add }: { word: string; place: string; add: (node: Node) => void } = $props();

  const OFFERS = CONDITIONS.flatMap(({ offers }) => offers);
  const LINK =
    "mx-1 cursor-pointer border-b border-dashed border-(--rule-strong) hover:border-(--accent) hover:text-(--accent)";

  let open = $state(false);
  let asking = $state.raw<{ offer: Offer; options: Option[]; from: HTMLElement | null } | null>(null);
  let panel = $state<HTMLElement>();
  let root = $state<HTMLElement>();

  async function ask(offer: Offer) {
    const from = open ? trigger() : (document.activeElement as HTMLElement | null);
    open = false;
    const options = await offer.options();
    if (options.length) asking = { offer, options, from };
    else said("No data for this condition yet");
  }

  const trigger = () => root?.querySelector<HTMLElement>("[data-part='trigger']") ?? null;

  function leave() {
    const from = asking?.from;
    asking = null;
    from?.focus();
  }

  async function choose(value: string) {
    const { offer } = asking!;
    let node: Node;
    try {
      node = await offer.begin(value);
    } catch (error) {
      return said(error instanceof Error ? error.message : "This condition cannot be added now");
    } finally {
      asking = null;
    }
    if (offer.then) opening.next(place, offer.then, offer.thenAt);
    add(node);
  }

  /** A condition copied here or in another audience. */
  async function paste() {
    open = false;
    try {
      const node = parsed(await navigator.clipboard.readText(), isCondition);
      if (!node || Object.keys(node).length !== 1) throw new Error();
      add(node);
    } catch {
      said("The clipboard does not hold a condition");
    }
  }
</script>

<svelte:window
  onpointerdowncapture={(event) => {
    if (asking && panel && !panel.contains(event.target as globalThis.Node)) asking = null;
  }}
/>

<span class="relative" bind:this={root}>
  <span class="soft">{word}</span>
  {#each OFFERS.filter(({ first }) => first) as offer (offer.text)}
    <button class={LINK} onclick={() => ask(offer)}>{offer.text}</button>
  {/each}
  <Popover
    {open}
    onOpenChange={(details) => (open = details.open)}
    finalFocusEl={() => panel?.querySelector("input") ?? trigger()}
  >
    <Popover.Trigger class={LINK}>More conditions…</Popover.Trigger>
    <Popover.Positioner class="z-30">
      <Popover.Content
        aria-label="More conditions"
        class="panel grid grid-cols-1 gap-x-8 gap-y-3 font-sans text-[15px] sm:grid-cols-3"
      >
        {#each Object.entries(ABOUT) as [ink, about] (ink)}
          <div>
            <p class="ink-{ink} small mb-2 inline-block">{about}</p>
            {#each OFFERS.filter((offer) => offer.about === (ink as About)) as offer (offer.text)}
              <button
                class="block cursor-pointer py-1 text-left hover:text-(--accent)"
                onclick={() => ask(offer)}>{offer.text}</button
              >
            {/each}
            {#if ink === "state"}
              <p class="soft small mt-4 mb-1">or</p>
              <button
                class="block cursor-pointer py-1 text-left hover:text-(--accent)"
                onclick={() => {
                  open = false;
                  add({ any: [] });
                }}>any of…</button
              >
              <button class="block cursor-pointer py-1 text-left hover:text-(--accent)" onclick={paste}
                >Paste condition</button
              >
            {/if}
          </div>
        {/each}
      </Popover.Content>
    </Popover.Positioner>
  </Popover>
  {#if asking}
    <!-- svelte-ignore a11y_no_static_element_interactions -->
    <span
      class="panel absolute top-full left-0 z-30 mt-1 block w-80 max-w-[calc(100vw-3rem)] font-sans text-[15px]"
      bind:this={panel}
      onfocusout={({ relatedTarget }) => {
        if (relatedTarget instanceof HTMLElement && !panel?.contains(relatedTarget)) asking = null;
      }}
      onkeydown={(event) => {
        if (event.key !== "Escape") return;
        event.stopPropagation();
        leave();
      }}
    >
      <span class="small mb-2 block font-semibold">{asking.offer.ask}</span>
      <Choice label={asking.offer.ask} options={asking.options} {choose} close={() => {}} />
    </span>
  {/if}
</span>
