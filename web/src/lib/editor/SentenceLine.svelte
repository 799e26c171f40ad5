<script lang="ts">
  import { Popover } from "@skeletonlabs/skeleton-svelte";
  import type { Schemas } from "../api/client";
  import type { Definition, Node, Selection } from "../definition";
  import {
    added,
    indented,
    moved,
    negated,
    nodeAt,
    outdented,
    pieceAt,
    removed,
    replaced,
    selections,
    steps,
    transferred,
    withoutPiece,
    withPiece,
  } from "../editing";
  import { number, percent } from "../format";
  import { said } from "../toasts.svelte";
  import AddClause from "./AddClause.svelte";
  import { dragging } from "./dragging.svelte";
  import Phrase from "./Phrase.svelte";
  import Self from "./SentenceLine.svelte";
  import { eventFields, newFilter, offeredTypes } from "./values";

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
  const about = $derived(node ? selections(node) : []);
  const words = $derived(line.parts.map((part) => part.text).join(" "));
  /** Each phrase by what it stands for, so that an open one stays open when the sentence around it changes. */
  const phrases = $derived.by(() => {
    const seen: Record<string, number> = {};
    return line.parts.map((part, position) => {
      const name = part.slot ? `${part.slot} ${part.path}` : `words ${position}`;
      seen[name] = (seen[name] ?? 0) + 1;
      return { part, key: `${name} ${seen[name]}` };
    });
  });
  const inList = $derived(typeof steps(line.place).at(-1) === "number");

  function act(next: Definition) {
    open = false;
    change(next);
  }

  function put(next: Node) {
    change(replaced(definition, line.place, next));
  }

  async function addFilter(path: string) {
    open = false;
    const selection = pieceAt<Selection>(node!, path)!;
    const field = eventFields(selection)[0]!;
    const filter = await newFilter(field.owner, field.name);
    put(withPiece(node!, path, { ...selection, where: [...(selection.where ?? []), filter] }));
  }

  function said_of(path: string): string {
    const selection = pieceAt<Selection>(node!, path)!;
    return about.length > 1 ? ` on ${selection.event ?? selection.events?.join(" or ") ?? "anything"}` : "";
  }

  const next = $derived(offeredTypes().sort((a, b) => b.count - a.count)[0]?.name ?? "");

  async function copy() {
    open = false;
    await navigator.clipboard.writeText(JSON.stringify(node));
    said("The clause has been copied; “more …” pastes it, here or in another audience");
  }

  /** Where this line stands, for putting another one before it. */
  const seat = $derived.by(() => {
    const path = steps(line.place);
    return { group: line.place.slice(0, line.place.lastIndexOf("[")), index: path.at(-1) as number };
  });

  function drop(event: DragEvent, onto: { group: string; index: number }) {
    event.preventDefault();
    event.stopPropagation();
    if (dragging.place) change(transferred(definition, dragging.place, onto.group, onto.index));
    dragging.place = null;
    over = false;
  }

  let over = $state(false);

  function keyed(event: KeyboardEvent) {
    if (event.target !== event.currentTarget) return;
    const moves: Record<string, () => Definition> = {
      ArrowUp: () => moved(definition, line.place, -1),
      ArrowDown: () => moved(definition, line.place, 1),
      ArrowRight: () => indented(definition, line.place),
      ArrowLeft: () => outdented(definition, line.place),
    };
    const letter = event.key.toLowerCase();
    if (event.altKey && moves[event.key]) change(moves[event.key]!());
    else if (event.key === "Delete") change(removed(definition, line.place));
    else if ((event.ctrlKey || event.metaKey) && letter === "c") void copy();
    else return;
    event.preventDefault();
  }
</script>

{#if node}
  <li
    class="group {over ? 'border-t-2 border-(--accent)' : ''}"
    data-testid="line"
    data-place={line.place}
    ondragover={(event) => {
      if (!dragging.place || !inList) return;
      event.preventDefault();
      event.stopPropagation();
      over = true;
    }}
    ondragleave={() => (over = false)}
    ondrop={(event) => inList && drop(event, seat)}
  >
    <div class="flex flex-wrap items-baseline gap-x-3 sm:flex-nowrap">
      <!-- svelte-ignore a11y_no_noninteractive_element_interactions -->
      <!-- svelte-ignore a11y_no_noninteractive_tabindex -->
      <span
        class="soft small shrink-0 cursor-grab font-sans {index === null ? 'w-3' : 'w-6 text-right'}"
        role="group"
        tabindex="0"
        draggable={inList}
        aria-label="Clause {words}; Alt with the arrow keys moves it, right and left nest it, Delete removes it"
        title="drag, or Alt with the arrow keys, to move it"
        ondragstart={(event) => {
          event.stopPropagation();
          event.dataTransfer?.setData("text/plain", words);
          dragging.place = line.place;
        }}
        ondragend={() => (dragging.place = null)}
        onkeydown={keyed}>{index === null ? "·" : index + 1}</span
      >
      <p class="says max-w-none! flex-1">
        <span class="soft">{word}</span>
        {#each phrases as { part, key } (key)}
          {#if part.slot}<Phrase {part} {node} change={put} />{:else}<span>{part.text}</span>{/if}{SPACE}
        {/each}
        <Popover {open} onOpenChange={(details) => (open = details.open)}>
          <Popover.Trigger
            class="soft cursor-pointer px-1 opacity-60 group-hover:opacity-100 focus-visible:opacity-100"
            aria-label="Change clause {words}">⋯</Popover.Trigger
          >
          <Popover.Positioner class="z-30">
            <Popover.Content class="panel flex flex-col items-stretch gap-1 p-2! font-sans text-[15px]">
              {#each about as path (path)}
                {#if eventFields(pieceAt<Selection>(node, path) ?? {}).length}
                  <button class="quiet" onclick={() => addFilter(path)}
                    >Add a condition on the event{said_of(path)}</button
                  >
                {/if}
              {/each}
              {#if node.order}
                <button
                  class="quiet"
                  onclick={() =>
                    act(
                      replaced(definition, line.place, {
                        order: { ...node.order!, steps: [...node.order!.steps, { event: next }] },
                      }),
                    )}>… and then another step</button
                >
                {#if !node.order.then_not}
                  <button
                    class="quiet"
                    onclick={() =>
                      act(
                        replaced(definition, line.place, {
                          order: { ...node.order!, then_not: { event: next, within: { days: 7 } } },
                        }),
                      )}>… and then not within a time</button
                  >
                {/if}
              {/if}
              {#if node.visit}
                <button
                  class="quiet"
                  onclick={() =>
                    act(
                      replaced(definition, line.place, {
                        visit: { ...node.visit!, all: [...node.visit!.all, { event: next }] },
                      }),
                    )}>Add something to the visit</button
                >
                {#if node.visit.all.length > 1}
                  {#each about as path (path)}
                    <button
                      class="quiet"
                      onclick={() => act(replaced(definition, line.place, withoutPiece(node, path)))}
                      >Leave out{said_of(path).replace(" on", "")}</button
                    >
                  {/each}
                {/if}
              {/if}
              <button class="quiet" onclick={() => act(replaced(definition, line.place, negated(node)))}
                >Turn into the opposite</button
              >
              {#if !group}
                <button class="quiet" onclick={() => act(replaced(definition, line.place, { any: [node] }))}
                  >Give it alternatives (or …)</button
                >
              {:else}
                <button
                  class="quiet"
                  onclick={() =>
                    act(
                      replaced(
                        definition,
                        line.place,
                        group === "any" ? { all: node.any! } : { any: node.all! },
                      ),
                    )}>{group === "any" ? "All of these instead" : "At least one of these instead"}</button
                >
              {/if}
              {#if inList}
                <div class="flex gap-1">
                  <button class="quiet flex-1" onclick={() => act(moved(definition, line.place, -1))}
                    >Move up</button
                  >
                  <button class="quiet flex-1" onclick={() => act(moved(definition, line.place, 1))}
                    >Move down</button
                  >
                </div>
                <div class="flex gap-1">
                  <button class="quiet flex-1" onclick={() => act(indented(definition, line.place))}
                    >Nest</button
                  >
                  <button class="quiet flex-1" onclick={() => act(outdented(definition, line.place))}
                    >Take out</button
                  >
                </div>
              {/if}
              <button class="quiet" onclick={copy}>Copy</button>
              <button class="quiet" onclick={() => act(removed(definition, line.place))}>Remove</button>
            </Popover.Content>
          </Popover.Positioner>
        </Popover>
      </p>
      {#if line.left !== undefined}
        <div class="ml-auto w-44 shrink-0 text-right font-sans" data-testid="left">
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
      {:else if line.alone !== undefined}
        <div class="soft small ml-auto w-44 shrink-0 text-right font-sans" data-testid="branch">
          {number(line.alone)} alone{#if line.adds !== undefined}, <span
              title="people whom no other branch brings">adds {number(line.adds)}</span
            >{/if}
        </div>
      {/if}
    </div>
    {#if line.lines.length || group}
      <ul class="ml-9 border-l border-(--rule-strong) pl-3">
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
          <li
            class="says py-1 text-[1rem]!"
            ondragover={(event) => dragging.place && event.preventDefault()}
            ondrop={(event) => drop(event, { group: `${line.place}.${group}`, index: node[group]!.length })}
          >
            <AddClause
              word={line.lines.length === 0 ? "" : group === "any" ? "or" : "and"}
              add={(fresh) => change(added(definition, `${line.place}.${group}`, fresh))}
            />
          </li>
        {/if}
      </ul>
    {/if}
  </li>
{/if}
