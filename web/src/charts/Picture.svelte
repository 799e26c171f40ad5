<script lang="ts">
  import type { Snippet } from "svelte";
  import Explained from "../help/Explained.svelte";
  import type { TermKey } from "../help/glossary";
  import { pictureOf, pngOf, save } from "../lib/downloads";
  import { day, number } from "../lib/format";
  import { said } from "../lib/toasts.svelte";
  import { workspace } from "../lib/workspace.svelte";

  /** A heading, a picture, and the ways to take it along: with its title, date, rule set and finding in it. */
  let {
    title,
    name,
    finding = "",
    term = null,
    beside,
    children,
  }: {
    title: string;
    name: string;
    finding?: string;
    /** What its title explains on demand. */
    term?: TermKey | null;
    beside?: Snippet;
    children: Snippet;
  } = $props();

  let holder = $state<HTMLElement>();

  function picture() {
    const ruleSet = workspace.ruleSet;
    const known = workspace.receivedBy ? `, using data received by ${day(workspace.receivedBy)}` : "";
    const rules = ruleSet
      ? `${ruleSet.name}: new ${ruleSet.new_for} days, dormant after ${ruleSet.active_within}, churned after ${number(ruleSet.churned_after)}`
      : "no lifecycle rules";
    return pictureOf(holder!.querySelector("svg[role=img], svg[role=group]")!, {
      title,
      lines: [`As of ${day(workspace.asOf)}${known}. ${rules}.`, finding].filter(Boolean),
    });
  }

  async function png() {
    try {
      save(`${name}.png`, await pngOf(await picture()));
    } catch {
      said("Could not create the PNG. Download the SVG instead.");
    }
  }

  async function svg() {
    save(`${name}.svg`, new Blob([(await picture()).text], { type: "image/svg+xml" }));
  }
</script>

<section class="mt-7">
  <div class="flex flex-wrap items-baseline gap-x-4 gap-y-1">
    <h2>
      {title}
      {#if term}<Explained {term} />{/if}
    </h2>
    {@render beside?.()}
    <span class="small ml-auto inline-flex gap-3">
      <button
        class="cursor-pointer underline decoration-(--rule-strong) underline-offset-3 hover:text-(--accent)"
        onclick={svg}
        aria-label="{title} as SVG">SVG</button
      >
      <button
        class="cursor-pointer underline decoration-(--rule-strong) underline-offset-3 hover:text-(--accent)"
        onclick={png}
        aria-label="{title} as PNG">PNG</button
      >
    </span>
  </div>
  <div bind:this={holder}>{@render children()}</div>
</section>
