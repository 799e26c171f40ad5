<script lang="ts">
  import { Popover } from "@skeletonlabs/skeleton-svelte";
  import type { Schemas } from "../api/client";
  import type { Did, Node } from "../definition";
  import CompareEditor from "./CompareEditor.svelte";
  import CountEditor from "./CountEditor.svelte";
  import OptionList from "./OptionList.svelte";
  import StatesEditor from "./StatesEditor.svelte";
  import ValueEditor from "./ValueEditor.svelte";
  import { newAttribute, newFilter, offeredTypes, type FieldRef } from "./values";
  import WindowEditor from "./WindowEditor.svelte";
  import { number } from "../format";
  import { workspace } from "../workspace.svelte";

  /** One underlined phrase of a sentence, edited where it stands. */
  let { part, node, change }: { part: Schemas["Part"]; node: Node; change: (node: Node) => void } = $props();

  const NAMES: Record<string, string> = {
    "attribute.name": "Attribute",
    "attribute.compare": "Comparison",
    "attribute.value": "Value",
    "did.event": "Event type",
    "did.count": "How often",
    "did.window": "When",
    "filter.property": "Property",
    "filter.compare": "Comparison",
    "filter.value": "Value",
    "lifecycle.is": "State",
  };
  let open = $state(false);
  const slot = $derived(part.slot!);
  const filter = $derived(part.index === null ? undefined : node.did?.where?.[part.index]);
  // The sentence on screen may be a moment older than the definition; a phrase whose piece is gone is only text.
  const piece = $derived(
    slot.startsWith("filter.")
      ? filter
      : { attribute: node.attribute, did: node.did, lifecycle: node.lifecycle }[slot.split(".")[0]!],
  );
  const field = $derived<FieldRef>(
    filter
      ? { event: node.did!.event, property: filter.property }
      : { attribute: node.attribute?.name ?? "" },
  );
  const eventType = $derived(workspace.catalogue?.event_types.find((type) => type.name === node.did?.event));

  function changeDid(changes: Partial<Did>) {
    change({ did: { ...node.did!, ...changes } });
  }

  function changeComparison(changes: object) {
    if (!filter) change({ attribute: { ...node.attribute!, ...changes } });
    else changeDid({ where: node.did!.where!.map((row) => (row === filter ? { ...row, ...changes } : row)) });
  }

  async function changeProperty(name: string) {
    const fresh = await newFilter(node.did!.event, name);
    changeDid({ where: node.did!.where!.map((row) => (row === filter ? fresh : row)) });
  }
</script>

{#if piece}
  <Popover {open} onOpenChange={(details) => (open = details.open)}>
    <Popover.Trigger
      class="ink-{part.ink} cursor-pointer rounded-none text-left"
      aria-label="{NAMES[slot]}: {part.text}"
      title={slot === "did.event" ? node.did?.event : undefined}>{part.text}</Popover.Trigger
    >
    <Popover.Positioner class="z-30">
      <Popover.Content class="panel min-w-64 font-sans text-[15px]">
        <Popover.Title class="small mb-2 font-semibold">{NAMES[slot]}</Popover.Title>
        {#if !open}
          <span></span>
        {:else if slot === "attribute.name"}
          <OptionList
            label="Attribute"
            value={node.attribute!.name}
            options={(workspace.catalogue?.attributes ?? []).map((entry) => [
              entry.name,
              `${entry.name} (${entry.type})`,
            ])}
            choose={async (name) => {
              const attribute = await newAttribute(name);
              if (attribute) change({ attribute });
            }}
            close={() => (open = false)}
          />
        {:else if slot === "did.event"}
          <OptionList
            label="Event type"
            value={node.did!.event}
            options={offeredTypes().map((type) => [type.name, `${type.name} (${number(type.count)})`])}
            choose={(event) => changeDid({ event, where: [] })}
            close={() => (open = false)}
          />
        {:else if slot === "filter.property"}
          <OptionList
            label="Property"
            value={filter!.property}
            options={(eventType?.properties ?? []).map((entry) => [
              entry.name,
              `${entry.name} (${entry.type})`,
            ])}
            choose={changeProperty}
            close={() => (open = false)}
          />
          <button
            class="quiet mt-3"
            onclick={() => {
              open = false;
              changeDid({ where: node.did!.where!.filter((row) => row !== filter) });
            }}>Remove this condition</button
          >
        {:else if slot === "attribute.compare" || slot === "filter.compare"}
          <CompareEditor
            {field}
            comparison={filter ?? node.attribute!}
            change={changeComparison}
            close={() => (open = false)}
          />
        {:else if slot === "attribute.value" || slot === "filter.value"}
          <ValueEditor
            {field}
            comparison={filter ?? node.attribute!}
            change={changeComparison}
            close={() => (open = false)}
          />
        {:else if slot === "did.count"}
          <CountEditor
            count={node.did!.count ?? { at_least: 1 }}
            change={(count) => changeDid({ count })}
            close={() => (open = false)}
          />
        {:else if slot === "did.window"}
          <WindowEditor
            window={node.did!.window ?? { ever: true }}
            change={(window) => changeDid({ window })}
            close={() => (open = false)}
          />
        {:else if slot === "lifecycle.is"}
          <StatesEditor states={node.lifecycle!.is} change={(is) => change({ lifecycle: { is } })} />
        {/if}
      </Popover.Content>
    </Popover.Positioner>
  </Popover>
{:else}
  <span>{part.text}</span>
{/if}
