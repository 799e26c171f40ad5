<script lang="ts">
  import type { Selection } from "../definition";
  import { eventName } from "../../lib/names";
  import { remember } from "../../lib/recent";
  import Choice from "./Choice.svelte";
  import { eventOptions } from "./choices";
  import { offeredTypes } from "./values";

  /** Which events: of one type, of several, or any. Conditions on a property that the new types lack are dropped. */
  let {
    selection,
    change,
    close,
  }: { selection: Selection; change: (selection: Selection) => void; close: () => void } = $props();

  const ANY = "";
  let adding = $state(false);
  const names = $derived(selection.events ?? (selection.event ? [selection.event] : []));
  const options = eventOptions();

  function set(next: string[]) {
    const rest = { ...selection };
    delete rest.event;
    delete rest.events;
    delete rest.any_event;
    const kept = (rest.where ?? []).filter((row) => !row.property || known(next, row.property));
    const named =
      next.length === 0
        ? { any_event: true as const }
        : next.length === 1
          ? { event: next[0]! }
          : { events: next };
    change({ ...rest, ...named, where: kept });
  }

  function known(types: string[], property: string): boolean {
    const among = offeredTypes().filter((type) => types.length === 0 || types.includes(type.name));
    return among.some((type) => type.properties.some((field) => field.name === property));
  }

  function choose(name: string) {
    if (name !== ANY) remember("event", name);
    if (name === ANY) set([]);
    else if (adding) set([...new Set([...names, name])]);
    else set([name]);
    adding = false;
  }
</script>

{#if names.length > 1 || adding}
  <ul class="mb-2">
    {#each names as name (name)}
      <li class="flex items-center gap-2">
        <span title={name}>{eventName(name)}</span>
        {#if names.length > 1}
          <button
            class="quiet ml-auto min-h-0!"
            aria-label="Remove {eventName(name)}"
            onclick={() => set(names.filter((other) => other !== name))}>×</button
          >
        {/if}
      </li>
    {/each}
  </ul>
{/if}
{#key adding}
  <Choice
    label="Event type"
    value={names[0] ?? ANY}
    options={adding
      ? options.filter((option) => !names.includes(option.value))
      : [...options, { value: ANY, text: "anything" }]}
    {choose}
    close={() => {
      if (names.length < 2 && !adding) close();
    }}
  />
{/key}
{#if names.length && !adding}
  <button class="quiet mt-2" onclick={() => (adding = true)}>or another event type …</button>
{/if}
