<script lang="ts">
  import { Popover } from "@skeletonlabs/skeleton-svelte";
  import type { Definition, Moment, Node, Selection } from "../definition";
  import { indented, moved, outdented, pieceAt, removed, replaced, steps, withPiece } from "./editing";
  import { conditionOf, negated, selections } from "../conditions";
  import { conditionOn, subjects } from "./eventConditions";
  import { eventFields, frequentTypes, namesOf } from "./values";

  /** What can be done to a condition besides changing its phrases. */
  let {
    place,
    words,
    node,
    definition,
    change,
    copy,
  }: {
    place: string;
    words: string;
    node: Node;
    definition: Definition;
    change: (definition: Definition) => void;
    copy: () => void;
  } = $props();

  let open = $state(false);
  const about = $derived(selections(node));
  const inList = $derived(typeof steps(place).at(-1) === "number");

  function put(next: Node) {
    change(replaced(definition, place, next));
  }

  async function addFilter(path: string, key: "where" | "then" = "where") {
    const selection = pieceAt<Selection & Pick<Moment, "then">>(node, path)!;
    const fields = eventFields(selection);
    const filter = await conditionOn(subjects(fields)[0]!.value, fields);
    put(withPiece(node, path, { ...selection, [key]: [...(selection[key] ?? []), filter] }));
  }

  function which(path: string): string {
    return about.length > 1 ? namesOf(pieceAt<Selection>(node, path)!) : "the event";
  }

  const next = $derived({ event: frequentTypes()[0] ?? "" });
</script>

<Popover {open} onOpenChange={(details) => (open = details.open)}>
  <Popover.Trigger
    class="soft cursor-pointer px-1 opacity-60 group-hover:opacity-100 focus-visible:opacity-100"
    aria-label="Change condition {words}">⋯</Popover.Trigger
  >
  <Popover.Positioner class="z-30">
    <Popover.Content
      aria-label="Change condition {words}"
      class="panel flex max-h-(--available-height) flex-col items-stretch gap-1 overflow-y-auto p-2! font-sans text-[15px]"
    >
      {#each about as path (path)}
        {@render item(`Add a condition on ${which(path)}`, () => addFilter(path))}
      {/each}
      {#each conditionOf(node)?.moments?.(node) ?? [] as path (path)}
        {@render item(`Add a condition on the ${path} time`, () => addFilter(path, "then"))}
      {/each}
      {#each conditionOf(node)?.actions?.(node, next) ?? [] as action, index (index)}
        {@render item(action.text, () => put(action.node))}
      {/each}
      {@render item("Negate", () => put(negated(node)))}
      {#if node.any}
        {@render item("Match all", () => put({ all: node.any! }))}
      {:else if node.all}
        {@render item("Match any", () => put({ any: node.all! }))}
      {:else}
        {@render item("Add alternative (OR)", () => put({ any: [node] }))}
      {/if}
      {#if inList}
        <div class="flex gap-1 *:flex-1">
          {@render item("Move up", () => change(moved(definition, place, -1)))}
          {@render item("Move down", () => change(moved(definition, place, 1)))}
        </div>
        <div class="flex gap-1 *:flex-1">
          {@render item("Group", () => change(indented(definition, place)))}
          {@render item("Ungroup", () => change(outdented(definition, place)))}
        </div>
      {/if}
      {@render item("Copy", copy)}
      {@render item("Remove", () => change(removed(definition, place)))}
    </Popover.Content>
  </Popover.Positioner>
</Popover>

{#snippet item(name: string, what: () => void)}
  <button
    class="quiet"
    onclick={() => {
      open = false;
      what();
    }}>{name}</button
  >
{/snippet}
