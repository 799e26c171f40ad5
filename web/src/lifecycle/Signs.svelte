<script lang="ts">
  import type { Schemas } from "../lib/api/client";
  import type { FilterTree } from "../audiences/definition";
  import Filters from "../audiences/editor/Filters.svelte";
  import { plural } from "../lib/format";
  import { workspace } from "../lib/workspace.svelte";

  /** What counts as activity: event types, each in whole or only where its properties meet conditions. */
  type Sign = Schemas["ActivitySign"];
  let { signs, change }: { signs: Sign[]; change: (signs: Sign[]) => void } = $props();

  const chosen = $derived(
    signs.map(
      (sign) =>
        (typeof sign === "string" ? { event: sign, where: [] } : sign) as {
          event: string;
          where: FilterTree[];
        },
    ),
  );
  const types = $derived(
    (workspace.catalogue?.event_types ?? []).filter(
      (type) => !type.hidden || chosen.some((sign) => sign.event === type.name),
    ),
  );

  function set(next: { event: string; where: FilterTree[] }[]) {
    change(next.map((sign) => (sign.where.length ? sign : sign.event)));
  }

  function toggle(name: string, on: boolean) {
    set(on ? [...chosen, { event: name, where: [] }] : chosen.filter((sign) => sign.event !== name));
  }

  function filters(name: string, where: FilterTree[]) {
    set(chosen.map((sign) => (sign.event === name ? { event: name, where } : sign)));
  }
</script>

<ul class="max-h-96 overflow-auto pr-2">
  {#each types as type (type.id)}
    {@const sign = chosen.find((one) => one.event === type.name)}
    <li class="border-b border-(--rule) py-1">
      <label class="flex items-center gap-2">
        <input
          type="checkbox"
          checked={!!sign}
          onchange={(event) => toggle(type.name, event.currentTarget.checked)}
        />
        <span class="flex-1"
          ><span title={type.name}>{type.noun}</span>{#if type.hidden || type.not_activity}<span
              class="soft small ml-2">{type.not_activity ? "marked as not activity; ignored" : "hidden"}</span
            >{/if}</span
        >
        <span class="soft small"
          >{plural(type.people, "person", "people")}, {plural(type.count, "event")}</span
        >
      </label>
      {#if sign}
        <div class="ml-6">
          <Filters
            name={type.noun}
            fields={type.properties.map((field) => ({ ...field, owner: type.name }))}
            where={sign.where}
            change={(where) => filters(type.name, where)}
          />
        </div>
      {/if}
    </li>
  {/each}
</ul>
