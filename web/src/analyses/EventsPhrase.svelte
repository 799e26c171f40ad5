<script lang="ts">
  import type { Selection } from "../audiences/definition";
  import { doneOf, namesOf } from "../audiences/editor/values";
  import { plural } from "../lib/format";
  import Panel from "../ui/Panel.svelte";

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

<Panel
  bind:open
  button="ink-what cursor-pointer rounded-none text-left"
  panel="min-w-64 max-w-96 font-sans text-[15px]"
  label="{label}: {text}"
  title={label}
>
  {#snippet trigger()}{text}{/snippet}
  {#await import("./EventsPanel.svelte") then { default: EventsPanel }}
    <EventsPanel {selection} {change} {filtered} close={() => (open = false)} />
  {/await}
</Panel>
