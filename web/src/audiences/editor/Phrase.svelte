<script lang="ts">
  import { Popover } from "@skeletonlabs/skeleton-svelte";
  import type { Schemas } from "../../lib/api/client";
  import type { Attribute, Comparison, Condition, FieldType, Filter, Node } from "../definition";
  import { pieceAt, withoutPiece, withPiece } from "./editing";
  import { workspace } from "../../lib/workspace.svelte";
  import AudiencePicker from "./AudiencePicker.svelte";
  import CampaignEditor from "./CampaignEditor.svelte";
  import Checks from "./Checks.svelte";
  import Choice from "./Choice.svelte";
  import CompareEditor from "./CompareEditor.svelte";
  import CountEditor from "./CountEditor.svelte";
  import EventsEditor from "./EventsEditor.svelte";
  import LinkEditor from "./LinkEditor.svelte";
  import RhythmEditor from "./RhythmEditor.svelte";
  import StatesEditor from "./StatesEditor.svelte";
  import ValueEditor from "./ValueEditor.svelte";
  import { CHANNELS, eventFields, firstValue, KINDS, newAttribute, newFilter, type FieldRef } from "./values";
  import WindowEditor from "./WindowEditor.svelte";
  import WithinEditor from "./WithinEditor.svelte";

  /** One underlined phrase of a sentence, edited where it stands. */
  let { part, node, change }: { part: Schemas["Part"]; node: Node; change: (node: Node) => void } = $props();

  const NAMES: Record<string, string> = {
    attribute: "Attribute",
    compare: "Comparison",
    value: "Value",
    events: "Event type",
    count: "How often",
    window: "When",
    property: "Property",
    states: "State",
    link: "How it follows",
    within: "Within",
    rhythm: "How regularly",
    moment: "Which time",
    visit: "Within one visit",
    changed: "What changed",
    audience: "Audience",
    channels: "Channel",
    kinds: "Kind",
    campaign: "Messages",
  };
  let open = $state(false);
  const slot = $derived(part.slot!);
  const path = $derived(part.path!);
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
  const attributes = $derived(
    (workspace.catalogue?.attributes ?? []).map((entry) => ({
      value: entry.name,
      text: entry.name,
      note: entry.type,
    })),
  );
  const numeric = $derived(path.endsWith(".measure") && part.about?.event === undefined);

  const close = () => (open = false);

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

  async function changeAttribute(name: string) {
    if (path === "changed") return put({ name, window: node.changed!.window });
    const attribute = await newAttribute(name);
    if (attribute) put(attribute);
  }

  /** The properties of the events that a condition is about. */
  const properties = $derived.by(() => {
    const owner = path.slice(0, Math.max(0, path.search(/\.(where|measure)\b/)));
    return owner ? eventFields(pieceAt(node, owner) ?? {}) : [];
  });

  async function changeProperty(name: string) {
    const owner = properties.find((entry) => entry.name === name)?.owner;
    if (owner) put(await newFilter(owner, name));
  }

  /** Another condition that will do instead of this one. */
  async function orAnother() {
    close();
    const another = await newFilter(properties[0]!.owner, properties[0]!.name);
    const group = /^(.*\.any)\[\d+\]$/.exec(path)?.[1];
    if (group) change(withPiece(node, group, [...pieceAt<Condition[]>(node, group)!, another]));
    else put({ any: [as<Filter>(), another] });
  }

  async function bound(name: "from" | "to", on: boolean) {
    const next = { ...node.changed! };
    delete next[name];
    const { compare, value } = (await newAttribute(node.changed!.name))!;
    change({ changed: on ? { ...next, [name]: { compare, value } } : next });
  }
</script>

{#if piece}
  <Popover {open} onOpenChange={(details) => (open = details.open)}>
    <Popover.Trigger
      class="ink-{part.ink} cursor-pointer rounded-none text-left"
      aria-label="{NAMES[slot]}: {part.text}">{part.text}</Popover.Trigger
    >
    <Popover.Positioner class="z-30">
      <Popover.Content class="panel min-w-64 max-w-96 font-sans text-[15px]">
        <Popover.Title class="small mb-2 font-semibold">{NAMES[slot]}</Popover.Title>
        {#if !open}
          <span></span>
        {:else if slot === "attribute"}
          <Choice
            label="Attribute"
            value={as<Attribute>().name}
            options={attributes}
            choose={changeAttribute}
            {close}
          />
        {:else if slot === "events"}
          <EventsEditor selection={as()} change={put} {close} />
        {:else if slot === "property"}
          <Choice
            label="Property"
            value={as<Filter>().property}
            options={properties.map((entry) => ({ value: entry.name, text: entry.name, note: entry.type }))}
            choose={changeProperty}
            {close}
          />
          <div class="mt-3 flex flex-wrap gap-2">
            <button class="quiet" onclick={drop}>Remove this condition</button>
            <button class="quiet" onclick={orAnother}>or another condition …</button>
          </div>
        {:else if slot === "compare"}
          <CompareEditor
            comparison={as()}
            {type}
            measured={numeric}
            ever={path === "attribute" ? (node.attribute!.ever ?? false) : null}
            fallback={async () => (field ? await firstValue(field) : 1)}
            change={put}
            {close}
          />
        {:else if slot === "value"}
          <ValueEditor {field} {type} comparison={as<Comparison>()} change={put} {close} />
        {:else if slot === "count"}
          <CountEditor did={as()} change={put} {close} />
        {:else if slot === "window"}
          <WindowEditor
            window={as<{ window?: object }>().window ?? { ever: true }}
            change={(window) => put({ ...piece, window })}
            {close}
          />
        {:else if slot === "states"}
          <StatesEditor lifecycle={as()} change={put} {close} />
        {:else if slot === "link"}
          <LinkEditor
            step={as()}
            change={put}
            remove={node.order!.steps.length > 2 || node.order!.then_not ? drop : undefined}
            {close}
          />
        {:else if slot === "within"}
          <WithinEditor
            within={node.order!.then_not!.within}
            change={(within) => put({ ...piece, within })}
            {close}
          />
          <div class="mt-3"><button class="quiet" onclick={drop}>Leave this out</button></div>
        {:else if slot === "rhythm"}
          <RhythmEditor rhythm={as()} change={put} {close} />
        {:else if slot === "moment"}
          <Choice
            label="Which time"
            value={path}
            options={["first", "last"].map((value) => ({ value, text: `the ${value} time` }))}
            choose={(kind) => change({ [kind]: piece })}
            {close}
          />
        {:else if slot === "visit"}
          <p class="soft small max-w-64">
            A visit ends after {workspace.info?.visit_gap_minutes} quiet minutes. Things are added and left out
            in the menu at the end of the line.
          </p>
        {:else if slot === "changed"}
          {#each ["from", "to"] as const as name (name)}
            <label class="flex items-center gap-2 py-0.5">
              <input
                type="checkbox"
                checked={Boolean(node.changed![name])}
                onchange={(event) => bound(name, event.currentTarget.checked)}
              />
              only {name} certain values
            </label>
          {/each}
        {:else if slot === "audience"}
          <AudiencePicker audience={as()} change={put} {close} />
        {:else if slot === "channels"}
          <Checks options={CHANNELS} chosen={node.reachable!.by} change={(by) => put({ by })} />
        {:else if slot === "campaign"}
          <CampaignEditor campaign={as()} change={put} {close} />
        {:else if slot === "kinds"}
          <Checks options={KINDS} chosen={node.kind!.is} change={(is) => put({ is })} />
        {/if}
      </Popover.Content>
    </Popover.Positioner>
  </Popover>
{:else}
  <span>{part.text}</span>
{/if}
