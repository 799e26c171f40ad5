<script lang="ts">
  import { Popover } from "@skeletonlabs/skeleton-svelte";
  import type { Schemas } from "../../lib/api/client";
  import type { Comparison, EventCondition, FilterTree, FieldType, Node } from "../definition";
  import { onMount } from "svelte";
  import { opening } from "./opening";
  import { pieceAt, withoutPiece, withPiece } from "./editing";
  import { conditionOf } from "../conditions";
  import Choice from "./Choice.svelte";
  import CompareEditor from "./CompareEditor.svelte";
  import EventsEditor from "./EventsEditor.svelte";
  import ValueEditor from "./ValueEditor.svelte";
  import { conditionOn, subjectOf, subjects } from "./eventConditions";
  import { eventFields, firstValue, type FieldRef } from "./values";
  import WindowEditor from "./WindowEditor.svelte";

  /** One underlined phrase of a sentence, edited where it stands. */
  let {
    part,
    place,
    node,
    change,
  }: { part: Schemas["Part"]; place: string; node: Node; change: (node: Node) => void } = $props();

  /** Phrases that several kinds of conditions have. */
  const SHARED: Record<string, string> = {
    events: "Event type",
    property: "Property",
    compare: "Comparison",
    value: "Value",
    window: "When",
  };
  let open = $state(false);
  const slot = $derived(part.slot!);
  const path = $derived(part.path!);
  const own = $derived(conditionOf(node));
  const title = $derived(own?.phrases?.[slot] ?? SHARED[slot]);
  // The sentence on screen may be a moment older than the definition; a phrase whose piece is gone is only text.
  const piece = $derived(pieceAt<object>(node, path));
  const type = $derived((part.about?.type ?? "text") as FieldType);
  const field = $derived<FieldRef | null>(
    part.about?.attribute
      ? { attribute: part.about.attribute }
      : part.about?.event && part.about.property
        ? { event: part.about.event, property: part.about.property }
        : null,
  );
  const numeric = $derived(path.endsWith(".measure") && part.about?.event === undefined);

  const close = () => (open = false);

  onMount(() => {
    if (opening.takes(place, slot, path)) open = true;
  });

  function as<T>(): T {
    return piece as T;
  }

  function put(next: object | undefined) {
    change(withPiece(node, path, next));
  }

  function drop() {
    close();
    change(withoutPiece(node, path));
  }

  /** The properties of the events that a condition is about. */
  const properties = $derived.by(() => {
    const owner = path.slice(0, Math.max(0, path.search(/\.(where|measure)\b/)));
    return owner ? eventFields(pieceAt(node, owner) ?? {}) : [];
  });

  const fields = $derived(subjects(properties));

  async function changeField(field: string) {
    put(await conditionOn(field, properties));
  }

  /** Another condition that will do instead of this one. */
  async function orAnother() {
    close();
    const another = await conditionOn(fields[0]!.value, properties);
    const group = /^(.*\.any)\[\d+\]$/.exec(path)?.[1];
    if (group) change(withPiece(node, group, [...pieceAt<FilterTree[]>(node, group)!, another]));
    else put({ any: [as<EventCondition>(), another] });
  }
</script>

{#if piece}
  <Popover {open} onOpenChange={(details) => (open = details.open)}>
    <Popover.Trigger
      class="ink-{part.ink} cursor-pointer rounded-none text-left"
      title={part.raw}
      aria-label="{title}: {part.text}">{part.text}</Popover.Trigger
    >
    <Popover.Positioner class="z-30">
      <Popover.Content
        class="panel max-h-(--available-height) min-w-64 max-w-96 overflow-y-auto font-sans text-[15px]"
      >
        <Popover.Title class="small mb-2 font-semibold">{title}</Popover.Title>
        {#if !open}
          <span></span>
        {:else if own?.phrases?.[slot]}
          <own.editor {slot} {path} piece={as()} {node} {put} {change} {drop} {close} />
        {:else if slot === "events"}
          <EventsEditor selection={as()} change={put} {close} />
        {:else if slot === "property"}
          <Choice label="Property" value={subjectOf(as())} options={fields} choose={changeField} {close} />
          <div class="mt-3 flex flex-wrap gap-2">
            <button class="quiet" onclick={drop}>Remove this condition</button>
            <button class="quiet" onclick={orAnother}>or another condition …</button>
          </div>
        {:else if slot === "compare"}
          <CompareEditor
            comparison={as()}
            {type}
            measured={numeric}
            ever={path === "attribute" && !node.attribute!.on ? (node.attribute!.ever ?? false) : null}
            fallback={async () => (field ? await firstValue(field) : 1)}
            change={put}
            {close}
          />
        {:else if slot === "value"}
          <ValueEditor {field} {type} comparison={as<Comparison>()} change={put} {close} />
        {:else if slot === "window"}
          <WindowEditor
            window={as<{ window?: object }>().window ?? { ever: true }}
            change={(window) => put({ ...piece, window })}
            {close}
          />
        {/if}
      </Popover.Content>
    </Popover.Positioner>
  </Popover>
{:else}
  <span>{part.text}</span>
{/if}
