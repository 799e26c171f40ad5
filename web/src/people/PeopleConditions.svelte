<script lang="ts">
  import { untrack } from "svelte";
  import { address } from "../lib/address.svelte";
  import type { Node } from "../audiences/definition";
  import { isCondition, parsed } from "../lib/shapes";
  import { fieldType, offeredTypes, topValues, type Found } from "../audiences/editor/values";
  import { workspace } from "../lib/workspace.svelte";

  /** Finds people by one attribute and one thing they did; for more than that, an audience is written. */
  function read(): Node[] {
    return parsed(address.get("definition") ?? "", isCondition)?.all ?? [];
  }
  const start = untrack(read);
  const attribute = start.find((node) => node.attribute)?.attribute;
  const did = start.find((node) => node.did)?.did;

  let name = $state(attribute?.name ?? "");
  let value = $state(String(attribute?.value ?? ""));
  let event = $state(did?.event ?? "");
  let days = $state<number | null>(did?.window?.last_days ?? null);
  let found = $state<Found[]>([]);

  const type = $derived(name ? fieldType({ attribute: name }) : "text");

  $effect(() => {
    if (!name) return;
    void topValues({ attribute: name }).then((values) => (found = values));
  });

  function typed(): string | number | boolean {
    if (type === "number") return Number(value);
    return type === "boolean" ? value === "true" : value;
  }

  function condition(): Node {
    if (value === "") return { attribute: { name, compare: "is_set" } };
    return { attribute: { name, compare: type === "list" ? "contains" : "is", value: typed() } };
  }

  function apply(submitted?: SubmitEvent) {
    submitted?.preventDefault();
    const all: Node[] = [];
    if (name) all.push(condition());
    if (event) all.push({ did: { event, window: days ? { last_days: days } : { ever: true } } });
    address.go(address.with({ definition: all.length ? JSON.stringify({ all }) : null, page: null }));
  }

  function clear() {
    name = value = event = "";
    days = null;
    apply();
  }
</script>

<form class="mt-3 flex flex-wrap items-center gap-2" onsubmit={apply} aria-label="Filter people">
  <span class="soft">whose</span>
  <select aria-label="Attribute" bind:value={name} onchange={() => (value = "")}>
    <option value="">any attribute</option>
    {#each workspace.catalogue?.attributes ?? [] as entry (entry.name)}<option value={entry.name}
        >{entry.display}</option
      >{/each}
  </select>
  {#if name}
    <span class="soft">is</span>
    <input
      class="w-40"
      aria-label="Value"
      placeholder="set"
      type={type === "date" || type === "time" ? "date" : type === "number" ? "number" : "text"}
      step="any"
      list="attribute-values"
      bind:value
    />
    <datalist id="attribute-values"
      >{#each found as entry (entry.value)}<option value={entry.value}></option>{/each}</datalist
    >
  {/if}
  <span class="soft">who did</span>
  <select aria-label="Event type" bind:value={event}>
    <option value="">anything or nothing</option>
    {#each offeredTypes() as entry (entry.id)}<option value={entry.name}>{entry.noun}</option>{/each}
  </select>
  {#if event}
    <span class="soft">in the last</span>
    <input
      type="number"
      min="1"
      max="36500"
      class="w-20 text-right"
      placeholder="all"
      aria-label="Days"
      bind:value={days}
    />
    <span class="soft">days</span>
  {/if}
  <button class="quiet">Find</button>
  {#if address.get("definition")}
    <button class="quiet" type="button" onclick={clear}>Clear</button>
    <a class="quiet" href={address.to("/audiences/new", { definition: address.get("definition") })}
      >Create audience</a
    >
  {/if}
</form>
