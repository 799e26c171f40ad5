<script lang="ts">
  import type { Snippet } from "svelte";
  import { pictureOf, pngOf, save } from "../lib/downloads";
  import { day, number } from "../lib/format";
  import { said } from "../lib/toasts.svelte";
  import { workspace } from "../lib/workspace.svelte";

  /** A heading, a picture, and the ways to take it along: with its title, date, policy and takeaway in it. */
  let {
    title,
    name,
    takeaway = "",
    beside,
    children,
  }: { title: string; name: string; takeaway?: string; beside?: Snippet; children: Snippet } = $props();

  let holder = $state<HTMLElement>();

  function picture() {
    const policy = workspace.policy;
    const known = workspace.knownOn ? `, as known on ${day(workspace.knownOn)}` : "";
    const rules = policy
      ? `${policy.name}: new for ${policy.new_for}, dormant from ${policy.active_within}, churned from ${number(policy.churned_after)} days`
      : "no policy";
    return pictureOf(holder!.querySelector("svg[role=img], svg[role=group]")!, {
      title,
      lines: [`As of ${day(workspace.asOf)}${known}. ${rules}.`, takeaway].filter(Boolean),
    });
  }

  async function png() {
    try {
      save(`${name}.png`, await pngOf(await picture()));
    } catch {
      said("The picture could not be made; the SVG can");
    }
  }

  async function svg() {
    save(`${name}.svg`, new Blob([(await picture()).text], { type: "image/svg+xml" }));
  }
</script>

<section class="mt-7">
  <div class="flex flex-wrap items-baseline gap-x-4 gap-y-1">
    <h2>{title}</h2>
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
