<script lang="ts">
  import type { Node } from "../definition";
  import { newClause } from "./values";

  /** The end of a sentence, where it can go on. */
  let { word, add }: { word: string; add: (node: Node) => void } = $props();

  const KINDS = [
    ["attribute", "whose attribute …"],
    ["did", "who did …"],
    ["lifecycle", "who are in a state …"],
  ] as const;

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
