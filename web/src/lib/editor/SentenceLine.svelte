<script lang="ts">
  import { Popover } from "@skeletonlabs/skeleton-svelte";
  import type { Schemas } from "../api/client";
  import {
    added,
    moved,
    negated,
    nodeAt,
    removed,
    replaced,
    type Definition,
    type Node,
  } from "../definition";
  import { number, percent } from "../format";
  import { workspace } from "../workspace.svelte";
  import AddClause from "./AddClause.svelte";
  import Phrase from "./Phrase.svelte";
  import Self from "./SentenceLine.svelte";
  import { newFilter } from "./values";

  /** One clause as a line of the sentence: its phrases, how many people are left after it, and what can be done to it. */
  let {
    line,
    definition,
    change,
    base,
    word,
    index = null,
  }: {
    line: Schemas["Line"];
    definition: Definition;
    change: (definition: Definition) => void;
    base: number;
    word: string;
    index?: number | null;
  } = $props();

  const SPACE = " "; // written out, since the one between tags is not always kept
  let open = $state(false);
  const node = $derived(nodeAt(definition, line.place));
  const group = $derived(node?.any ? "any" : node?.all ? "all" : null);
  const properties = $derived(
    workspace.catalogue?.event_types.find((type) => type.name === node?.did?.event)?.properties ?? [],
  );

  function act(next: Definition) {
    open = false;
    change(next);
  }

  function put(next: Node) {
    change(replaced(definition, line.place, next));
  }

  async function addFilter() {
    open = false;
    const filter = await newFilter(node!.did!.event, properties[0]!.name);
    put({ did: { ...node!.did!, where: [...(node!.did!.where ?? []), filter] } });
  }
</script>

{#if node}
  <li class="group" data-testid="line" data-place={line.place}>
    <div class="flex items-baseline gap-3">
      {#if index !== null}<span class="soft small w-5 shrink-0 text-right font-sans">{index + 1}</span>{/if}
      <p class="says max-w-none! flex-1">
        <span class="soft">{word}</span>
        {#each line.parts as part, position (position)}
          {#if part.slot}<Phrase {part} {node} change={put} />{:else}<span>{part.text}</span>{/if}{SPACE}
        {/each}
        <Popover {open} onOpenChange={(details) => (open = details.open)}>
          <Popover.Trigger
            class="soft cursor-pointer px-1 opacity-60 group-hover:opacity-100 focus-visible:opacity-100"
            aria-label="Change clause {line.parts.map((part) => part.text).join(' ')}">⋯</Popover.Trigger
          >
          <Popover.Positioner class="z-30">
            <Popover.Content class="panel flex flex-col gap-1 p-2! font-sans text-[15px]">
              {#if node.did && properties.length}
                <button class="quiet" onclick={addFilter}>Add a condition on the event</button>
              {/if}
              <button class="quiet" onclick={() => act(replaced(definition, line.place, negated(node)))}
                >Turn into the opposite</button
              >
              {#if !group}
                <button class="quiet" onclick={() => act(replaced(definition, line.place, { any: [node] }))}
                  >Give it alternatives (or …)</button
                >
              {/if}
              <button class="quiet" onclick={() => act(moved(definition, line.place, -1))}>Move up</button>
              <button class="quiet" onclick={() => act(moved(definition, line.place, 1))}>Move down</button>
              <button class="quiet" onclick={() => act(removed(definition, line.place))}>Remove</button>
            </Popover.Content>
          </Popover.Positioner>
        </Popover>
      </p>
      {#if line.left !== undefined}
        <div class="w-44 shrink-0 text-right font-sans" data-testid="left">
          <span class="font-semibold">{number(line.left)}</span>
          <span class="soft small"> left</span>
          <svg viewBox="0 0 176 4" class="block h-1 w-44" aria-hidden="true" preserveAspectRatio="none">
            <rect width="176" height="4" fill="var(--rule)" />
            <rect
              x={176 - (base ? (176 * line.left) / base : 0)}
              width={base ? (176 * line.left) / base : 0}
              height="4"
              fill={line.left === 0 ? "var(--alarm)" : "var(--ink)"}
            />
          </svg>
          <span class="soft small" title="people who fit this clause alone"
            >{number(line.alone ?? 0)} alone, {percent(base ? (line.alone ?? 0) / base : 0)}</span
          >
        </div>
      {/if}
    </div>
    {#if line.lines.length || group}
      <ul class="ml-12 border-l border-(--rule-strong) pl-4">
        {#each line.lines as inner, position (inner.place)}
          <Self
            line={inner}
            {definition}
            {change}
            {base}
            word={position === 0 ? "" : group === "any" ? "or" : "and"}
          />
        {/each}
        {#if group}
          <li class="says py-1 text-[1rem]!">
            <AddClause
              word={group === "any" ? "or" : "and"}
              add={(fresh) => change(added(definition, `${line.place}.${group}`, fresh))}
            />
          </li>
        {/if}
      </ul>
    {/if}
  </li>
{/if}
