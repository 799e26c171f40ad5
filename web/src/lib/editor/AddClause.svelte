<script lang="ts">
  import { Popover } from "@skeletonlabs/skeleton-svelte";
  import { answer, api } from "../api/client";
  import type { Node } from "../definition";
  import { newClause, templates } from "./values";

  /** The end of a sentence, where it can go on. */
  let { word, add }: { word: string; add: (node: Node) => void } = $props();

  const KINDS = [
    ["attribute", "whose attribute …"],
    ["did", "who did …"],
    ["lifecycle", "who are in a state …"],
  ] as const;

  let open = $state(false);
  let others = $state.raw<[string, Node][]>([]);

  async function opened(now: boolean) {
    open = now;
    if (!now) return;
    const known = await answer(api.GET("/audiences"));
    others = templates(known.audiences[0]?.id);
  }

  async function choose(kind: "attribute" | "did" | "lifecycle") {
    const node = await newClause(kind);
    if (node) add(node);
  }
</script>

<span class="soft">{word}</span>
{#each KINDS as [kind, name] (kind)}
  <button
    class="mx-1 cursor-pointer border-b border-dashed border-(--rule-strong) hover:border-(--accent) hover:text-(--accent)"
    onclick={() => choose(kind)}>{name}</button
  >
{/each}
<Popover {open} onOpenChange={(details) => void opened(details.open)}>
  <Popover.Trigger
    class="mx-1 cursor-pointer border-b border-dashed border-(--rule-strong) hover:border-(--accent) hover:text-(--accent)"
    >more …</Popover.Trigger
  >
  <Popover.Positioner class="z-30">
    <Popover.Content class="panel flex flex-col gap-1 p-2! font-sans text-[15px]">
      {#each others as [name, node] (name)}
        <button
          class="quiet"
          onclick={() => {
            open = false;
            add(node);
          }}>{name}</button
        >
      {/each}
      <p class="soft small mt-1 max-w-72">Their details are changed under “As JSON” below the sentence.</p>
    </Popover.Content>
  </Popover.Positioner>
</Popover>
