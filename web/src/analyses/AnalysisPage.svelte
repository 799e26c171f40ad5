<script lang="ts" generics="N extends AnalysisName">
  import type { Snippet } from "svelte";
  import type { AnalysisName, Answer } from "../lib/api/ask";
  import type { Asked } from "../lib/asked.svelte";
  import Failed from "../ui/Failed.svelte";
  import Picture from "../charts/Picture.svelte";
  import Waiting from "../ui/Waiting.svelte";
  import { list } from "../lib/format";
  import DataTable from "./DataTable.svelte";

  /**
   * The page of an analysis: its question as a sentence, what it says, its picture, what to bear in mind, and its tables.
   * While the answer is computed it tells how far it is, and can be given up.
   */
  let {
    asked,
    title,
    name,
    left = [],
    choosing = false,
    question,
    picture,
    instead,
  }: {
    asked: Asked<N>;
    /** Over the picture. */
    title: string;
    /** Of files. */
    name: string;
    /** Names in the address whose values made no sense. */
    left?: string[];
    /** Whether rows of the first table can be chosen together. */
    choosing?: boolean;
    question: Snippet;
    picture: Snippet<[Answer<N>]>;
    /** Stands there while nothing is asked. */
    instead?: Snippet;
  } = $props();

  const answer = $derived(asked.data as Answer<N> | null);
</script>

<div class="says mt-4 max-w-[70rem] leading-8" data-testid="question">{@render question()}</div>
{#if left.length}
  <p class="mt-1" role="status">
    The address held something under {list(left)} that makes no sense; it was left out.
  </p>
{/if}
<svelte:boundary>
  {#if answer && !asked.problem}
    {#if asked.progress}<Waiting of={asked} />{/if}
    <div aria-busy={asked.loading}>
      <p class="says mt-3 max-w-[70rem]" data-testid="finding">{answer.finding}</p>
      <Picture {title} {name} takeaway={answer.finding}>{@render picture(answer)}</Picture>
      {#each answer.caveats as caveat (caveat)}
        <p class="soft small mt-2 max-w-[60rem]">{caveat}</p>
      {/each}
      {#each answer.tables as table, index (table.key)}
        <DataTable {table} asOf={answer.as_of} choosing={choosing && index === 0} />
      {/each}
    </div>
  {:else if asked.problem || asked.loading || asked.cancelled}
    <Waiting of={asked} />
  {:else}{@render instead?.()}{/if}
  {#snippet failed(_error: unknown, reset: () => void)}
    <Failed what="This answer cannot be drawn." {reset} />
  {/snippet}
</svelte:boundary>
