<script lang="ts">
  import { Popover } from "@skeletonlabs/skeleton-svelte";
  import type { Selection } from "../audiences/definition";
  import { doneOf, namesOf } from "../audiences/editor/values";
  import EventsEditor from "../audiences/editor/EventsEditor.svelte";

  /** Which events, as an underlined phrase that opens the editor of audiences. */
  let {
    label,
    selection,
    change,
    done = false,
  }: {
    label: string;
    selection: Selection;
    change: (selection: Selection) => void;
    /** Whether it says what people did rather than what happened. */
    done?: boolean;
  } = $props();

  let open = $state(false);
  const text = $derived(done ? doneOf(selection) : namesOf(selection));
</script>

<Popover {open} onOpenChange={(details) => (open = details.open)}>
  <Popover.Trigger class="ink-what cursor-pointer rounded-none text-left" aria-label="{label}: {text}"
    >{text}</Popover.Trigger
  ><Popover.Positioner class="z-30">
    <Popover.Content class="panel min-w-64 max-w-96 font-sans text-[15px]">
      <Popover.Title class="small mb-2 font-semibold">{label}</Popover.Title>
      {#if open}<EventsEditor {selection} {change} close={() => (open = false)} />{/if}
    </Popover.Content>
  </Popover.Positioner>
</Popover>
