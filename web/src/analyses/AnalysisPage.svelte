<script lang="ts" generics="N extends AnalysisName">
  import type { ComponentProps, Snippet } from "svelte";
  import type { Schemas } from "../lib/api/client";
  import type { AnalysisName, Answer } from "../lib/api/ask";
  import type { Asked } from "../lib/asked.svelte";
  import type { TermKey } from "../help/glossary";
  import Failed from "../ui/Failed.svelte";
  import Picture from "../charts/Picture.svelte";
  import { comparison } from "../audiences/comparison.svelte";
  import Waiting from "../ui/Waiting.svelte";
  import { list } from "../lib/format";
  import { sentence } from "../lib/sentence";
  import DataTable from "./DataTable.svelte";

  /**
   * The page of an analysis: its question as a sentence, what it says, its picture, what to bear in mind, and its tables.
   * While the answer is computed it tells how far it is, and can be given up. On the page of another analysis it stands
   * under a heading.
   */
  let {
    asked,
    title = null,
    term = null,
    name,
    left = [],
    under = null,
    tables = null,
    question,
    picture,
    beside: besidePicture,
    more,
    instead,
  }: {
    asked: Asked<N>;
    /** Over the picture; without one it cannot be taken along. */
    title?: string | null;
    /** What the title explains on demand. */
    term?: TermKey | null;
    /** Of files. */
    name: string;
    /** Names in the address whose values made no sense. */
    left?: string[];
    /** The heading, on the page of another analysis. */
    under?: string | null;
    /** How the tables are shown, by their keys; those that are not named are not shown. All are, where nothing is said. */
    tables?: Record<string, Partial<ComponentProps<typeof DataTable>>> | null;
    question: Snippet;
    picture?: Snippet<[Answer<N>]>;
    /** Beside the title of the picture. */
    beside?: Snippet<[Answer<N>]>;
    /** Below the tables. */
    more?: Snippet<[Answer<N>]>;
    /** Stands there while nothing is asked. */
    instead?: Snippet;
  } = $props();

  const answer = $derived(asked.data as Answer<N> | null);
  const mine = $derived(under ? `-${name}` : "");

  function shown(all: Schemas["AnalysisTable"][]) {
    const asIs = { choosing: false };
    if (!tables) return all.map((table) => [table, asIs] as const);
    return Object.entries(tables).flatMap(([key, how]) =>
      all.filter((table) => table.key === key).map((table) => [table, how] as const),
    );
  }
</script>

{#if under}<h2 class="mt-8">{under}</h2>{/if}
<div
  class={[
    "says max-w-none leading-8",
    under ? "mt-1" : "mt-4",
    // Compared audiences get their names from a second answer, which may add a line.
    !under && "has-[bdi]:min-h-16",
    !comparison.named && "has-[bdi]:invisible",
  ]}
  data-testid="question{mine}"
  {@attach sentence}
>
  {@render question()}
</div>
{#if left.length}
  <p class="mt-1" role="status">
    Part of this link could not be read and was ignored: {list(left)}.
  </p>
{/if}
<svelte:boundary>
  {#if answer && !asked.problem}
    {#if asked.progress}<Waiting of={asked} />{/if}
    <div aria-busy={asked.loading}>
      {#if answer.finding}<p class="says mt-3 max-w-none" data-testid="finding{mine}">
          {answer.finding}
        </p>{/if}
      {#if picture && title}
        <Picture {title} {term} {name} finding={answer.finding}>
          {#snippet beside()}{@render besidePicture?.(answer)}{/snippet}
          {@render picture(answer)}
        </Picture>
      {:else}{@render picture?.(answer)}{/if}
      {#each answer.caveats as caveat (caveat)}
        <p class="soft small mt-2 max-w-[60rem]">{caveat}</p>
      {/each}
      {#each shown(answer.tables).filter(([table]) => table.rows.length) as [table, how] (table.key)}
        <DataTable {table} asOf={answer.as_of} {...how} />
      {/each}
      {@render more?.(answer)}
    </div>
  {:else if asked.problem || asked.loading || asked.cancelled}
    <Waiting of={asked} />
  {:else}{@render instead?.()}{/if}
  {#snippet failed(_error: unknown, reset: () => void)}
    <Failed what="This result cannot be shown." {reset} />
  {/snippet}
</svelte:boundary>
