<script lang="ts">
  import type { Schemas } from "../../lib/api/client";
  import type { Definition } from "../definition";
  import { sentence } from "../../lib/sentence";
  import AddCondition from "./AddCondition.svelte";
  import { added } from "./editing";
  import SentenceLine from "./SentenceLine.svelte";

  /** A definition as a sentence, condition by condition, with what it can go on with. */
  let {
    preview,
    definition,
    change,
  }: {
    /** The server's wording, which may be of a definition a moment older. */
    preview: Schemas["Preview"] | null;
    definition: Definition;
    change: (next: Definition) => void;
  } = $props();

  /** Draws the lines again, where they could not be drawn. */
  let again: (() => void) | null = null;
  $effect(() => {
    if (definition) again?.();
    again = null;
  });
</script>

<div {@attach sentence}>
  <svelte:boundary onerror={(_, reset) => (again = reset)}>
    <ol class="mt-3 flex flex-col gap-3" aria-label="The sentence">
      {#each preview?.lines ?? [] as line, index (line.place)}
        <SentenceLine
          {line}
          {definition}
          {change}
          base={preview!.base}
          word={index === 0 ? "People" : "and"}
          {index}
        />
      {/each}
    </ol>
    {#snippet failed()}
      <p class="soft mt-3 ml-9">The JSON below is not a valid definition.</p>
    {/snippet}
  </svelte:boundary>
  <p class="says mt-3 ml-9 max-w-none!">
    <AddCondition
      word={definition.all.length ? "and" : "People"}
      place={`all[${definition.all.length}]`}
      add={(node) => change(added(definition, "all", node))}
    />
    {#if definition.all.length === 0}<span class="soft">– all people.</span>{/if}
  </p>
</div>
