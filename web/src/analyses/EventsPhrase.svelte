<script lang="ts">
  import { Popover } from "@skeletonlabs/skeleton-svelte";
  import type { Selection } from "../audiences/definition";
  import { doneOf, eventFields, namesOf } from "../audiences/editor/values";
  import Filters from "../audiences/editor/Filters.svelte";
  import { plural } from "../lib/format";
  import EventsEditor from "../audiences/editor/EventsEditor.svelte";

  /** Which events, as an underlined phrase that opens the editor of audiences. */
  let {
    label,
    selection,
    change,
    done = false,
    filtered = true,
  }: {
    label: string;
    selection: Selection;
    change: (selection: Selection) => void;
    /** Whether it says what people did rather than what happened. */
    done?: boolean;
    /** Whether the events can be narrowed by conditions. */
    filtered?: boolean;
  } = $props();

  let open = $state(false);
  const words = $derived(done ? doneOf(selection) : namesOf(selection));
  const conditions = $derived(selection.where?.length ?? 0);
  const text = $derived(conditions ? `${words} (${plural(conditions, "condition")})` : words);
</script>

<Popover {open} onOpenChange={(details) => (open = details.open)}>
  <Popover.Trigger class="ink-what cursor-pointer rounded-none text-left" aria-label="{label}: {text}"
    >{text}</Popover.Trigger
  ><Popover.Positioner class="z-30">
    <Popover.Content class="panel min-w-64 max-w-96 font-sans text-[15px]">
      <Popover.Title class="small mb-2 font-semibold">{label}</Popover.Title>
      {#if open}
        <EventsEditor {selection} {change} close={() => (open = false)} />
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
      {/if}
    </Popover.Content>
  </Popover.Positioner>
</Popover>
