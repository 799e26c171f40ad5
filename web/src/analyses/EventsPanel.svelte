<script lang="ts">
  import { onMount, tick } from "svelte";
  import type { Selection } from "../audiences/definition";
  import EventsEditor from "../audiences/editor/EventsEditor.svelte";
  import Filters from "../audiences/editor/Filters.svelte";
  import { eventFields, namesOf } from "../audiences/editor/values";
  import { firstIn } from "../lib/focus";

  /** Chooses events, and the conditions on them. Apart, so that the editor is loaded when a phrase is first opened. */
  let {
    selection,
    change,
    filtered,
    close,
  }: {
    selection: Selection;
    change: (selection: Selection) => void;
    /** Whether the events can be narrowed by conditions. */
    filtered: boolean;
    close: () => void;
  } = $props();

  let root = $state<HTMLElement>();
  onMount(() => void tick().then(() => root && firstIn(root)?.focus()));
</script>

<div bind:this={root}>
  <EventsEditor {selection} {change} {close} />
  {#if filtered}
    <div class="mt-2 border-t border-(--rule) pt-2">
      <Filters
        name={namesOf(selection)}
        fields={eventFields(selection)}
        where={selection.where ?? []}
        change={(where) => change({ ...selection, where })}
        ofPerson
      />
    </div>
  {/if}
</div>
