<script lang="ts">
  import type { Schemas } from "../../lib/api/client";
  import type { Definition, Node } from "../definition";
  import {
    added,
    alternatives,
    indented,
    moved,
    nodeAt,
    outdented,
    removed,
    replaced,
    steps,
    transferred,
  } from "./editing";
  import { said } from "../../lib/toasts.svelte";
  import AddCondition from "./AddCondition.svelte";
  import ConditionCounts from "./ConditionCounts.svelte";
  import ConditionMenu from "./ConditionMenu.svelte";
  import { dragging } from "./dragging.svelte";
  import { faulty } from "./faulty";
  import { selecting, toggled } from "./selecting.svelte";
  import Phrase from "./Phrase.svelte";
  import Self from "./SentenceLine.svelte";

  /** One condition as a line of the sentence: its phrases, how many people are left after it, and what can be done to it. */
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

  const isFaulty = faulty();
  const SPACE = " "; // written out, since the one between tags is not always kept
  const node = $derived(nodeAt(definition, line.place));
  const group = $derived(node?.any ? "any" : node?.all ? "all" : null);
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

  function put(next: Node) {
    change(replaced(definition, line.place, next));
  }

  async function copy() {
    await navigator.clipboard.writeText(JSON.stringify(node));
    said("Condition copied. Paste it under “More conditions…”, here or in another audience.");
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
  const selected = $derived(selecting.places.includes(line.place));

  /** The selected conditions become alternatives. */
  function either() {
    change(alternatives(definition, selecting.places));
    selecting.places = [];
  }

  function keyed(event: KeyboardEvent) {
    if (event.target !== event.currentTarget) return;
    const moves: Record<string, () => Definition> = {
      ArrowUp: () => moved(definition, line.place, -1),
      ArrowDown: () => moved(definition, line.place, 1),
      ArrowRight: () => indented(definition, line.place),
      ArrowLeft: () => outdented(definition, line.place),
    };
    const letter = event.key.toLowerCase();
    if (event.key === " " && inList) toggled(line.place);
    else if (event.altKey && moves[event.key]) change(moves[event.key]!());
    else if (event.key === "Delete") change(removed(definition, line.place));
    else if ((event.ctrlKey || event.metaKey) && letter === "c") void copy();
    else return;
    event.preventDefault();
  }
</script>

{#if node}
  <li
    class="group {over ? 'border-t-2 border-(--accent)' : ''} {isFaulty(line.place)
      ? '-ml-3 border-l-4 border-(--alarm) pl-2'
      : ''}"
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
        class="small shrink-0 cursor-grab font-sans {index === null ? 'w-3' : 'w-6 text-right'} {selected
          ? 'bg-(--accent) text-(--paper)'
          : 'soft'}"
        role="group"
        tabindex="0"
        draggable={inList}
        aria-label="{selected
          ? 'Selected: condition'
          : 'Condition'} {words}; the space bar selects it, Alt with the arrow keys moves it, right and left nest it, Delete removes it"
        title="Click to select it; drag it, or press Alt with the arrow keys, to move it"
        onclick={() => inList && toggled(line.place)}
        ondragstart={(event) => {
          event.stopPropagation();
          event.dataTransfer?.setData("text/plain", words);
          dragging.place = line.place;
        }}
        ondragend={() => (dragging.place = null)}
        onkeydown={keyed}>{index === null ? "·" : index + 1}</span
      >
      <p class="says max-w-none! min-w-[calc(100%-3rem)] flex-1 sm:min-w-0">
        <span class="soft">{word}</span>
        {#each phrases as { part, key } (key)}
          {#if part.slot}<Phrase {part} place={line.place} {node} change={put} />{:else}<span
              >{part.text}</span
            >{/if}{SPACE}
        {/each}
        <ConditionMenu place={line.place} {words} {node} {definition} {change} {copy} />
      </p>
      <ConditionCounts {line} {base} />
    </div>
    {#if selecting.places.length > 1 && selecting.places.at(-1) === line.place}
      <p class="small my-1 ml-9 flex items-baseline gap-3">
        <button class="act" onclick={either}>Combine {selecting.places.length} with OR</button>
        <button class="quiet" onclick={() => (selecting.places = [])}>Clear the selection</button>
      </p>
    {/if}
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
            <AddCondition
              word={line.lines.length === 0 ? "" : group === "any" ? "or" : "and"}
              place={`${line.place}.${group}[${node[group]!.length}]`}
              add={(fresh) => change(added(definition, `${line.place}.${group}`, fresh))}
            />
          </li>
        {/if}
      </ul>
    {/if}
  </li>
{/if}
