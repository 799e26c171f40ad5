<script lang="ts">
  import type { Schemas } from "../lib/api/client";
  import { COMPARISONS, recompared, shape } from "../audiences/editor/comparisons";
  import type { Filter } from "../audiences/definition";
  import { fieldType, newFilter } from "../audiences/editor/values";
  import ValueInput from "../audiences/editor/ValueInput.svelte";
  import { plural } from "../lib/format";
  import { workspace } from "../lib/workspace.svelte";

  /** What counts as activity: event types, each in whole or only where its properties meet conditions. */
  type Sign = Schemas["ActivitySign"];
  let { signs, change }: { signs: Sign[]; change: (signs: Sign[]) => void } = $props();

  const chosen = $derived(
    signs.map(
      (sign) =>
        (typeof sign === "string" ? { event: sign, where: [] } : sign) as { event: string; where: Filter[] },
    ),
  );
  const types = $derived(
    (workspace.catalogue?.event_types ?? []).filter(
      (type) => !type.hidden || chosen.some((sign) => sign.event === type.name),
    ),
  );

  function set(next: { event: string; where: Filter[] }[]) {
    change(next.map((sign) => (sign.where.length ? sign : sign.event)));
  }

  function toggle(name: string, on: boolean) {
    set(on ? [...chosen, { event: name, where: [] }] : chosen.filter((sign) => sign.event !== name));
  }

  function filters(name: string, where: Filter[]) {
    set(chosen.map((sign) => (sign.event === name ? { event: name, where } : sign)));
  }

  function replace(name: string, index: number, filter: Filter) {
    const sign = chosen.find((one) => one.event === name)!;
    filters(
      name,
      sign.where.map((other, position) => (position === index ? filter : other)),
    );
  }
</script>

<ul class="max-h-96 overflow-auto pr-2">
  {#each types as type (type.id)}
    {@const sign = chosen.find((one) => one.event === type.name)}
    {@const properties = type.properties.filter((field) => field.type !== "list")}
    <li class="border-b border-(--rule) py-1">
      <label class="flex items-center gap-2">
        <input
          type="checkbox"
          checked={!!sign}
          onchange={(event) => toggle(type.name, event.currentTarget.checked)}
        />
        <span class="flex-1"
          ><span title={type.name}>{type.noun}</span>{#if type.hidden || type.not_activity}<span
              class="soft small ml-2"
              >{type.not_activity ? "marked as no activity, so it does not count" : "hidden"}</span
            >{/if}</span
        >
        <span class="soft small"
          >{plural(type.people, "person", "people")}, {plural(type.count, "event")}</span
        >
      </label>
      {#if sign}
        <div class="ml-6">
          {#each sign.where as filter, index (index)}
            {@const field = { event: type.name, property: filter.property }}
            {#if filter.property}
              <div class="mt-1 flex flex-wrap items-center gap-2">
                <span class="small">{index ? "and" : "only where"}</span>
                <select
                  aria-label="Property of {type.noun}"
                  value={filter.property}
                  onchange={async (event) =>
                    replace(type.name, index, await newFilter(type.name, event.currentTarget.value))}
                >
                  {#each properties as property (property.name)}<option value={property.name}
                      >{property.display}</option
                    >{/each}
                </select>
                <select
                  aria-label="Comparison"
                  value={filter.compare}
                  onchange={(event) =>
                    replace(type.name, index, recompared(filter, event.currentTarget.value, ""))}
                >
                  {#each COMPARISONS[fieldType(field)].filter(([compare]) => shape(compare) === "one" || shape(compare) === "none") as [compare, text] (compare)}
                    <option value={compare}>{text}</option>
                  {/each}
                </select>
                {#if fieldType(field) === "boolean"}
                  {#if shape(filter.compare) === "one"}
                    <select
                      aria-label="Value"
                      value={String(filter.value)}
                      onchange={(event) =>
                        replace(type.name, index, { ...filter, value: event.currentTarget.value === "true" })}
                    >
                      <option>true</option><option>false</option>
                    </select>
                  {/if}
                {:else if shape(filter.compare) === "one"}
                  <span class="w-36"
                    ><ValueInput
                      label="Value"
                      type={fieldType(field)}
                      value={Array.isArray(filter.value) ? filter.value[0] : filter.value}
                      change={(value) => replace(type.name, index, { ...filter, value })}
                      close={() => {}}
                    /></span
                  >
                {/if}
                <button
                  class="quiet min-h-0! py-0.5!"
                  type="button"
                  aria-label="Leave this condition out"
                  onclick={() =>
                    filters(
                      type.name,
                      sign.where.filter((_, position) => position !== index),
                    )}>×</button
                >
              </div>
            {:else}<p class="small mt-1">a group of conditions; change it in the definition</p>{/if}
          {/each}
          {#if properties.length && sign.where.length < 8}
            <button
              class="small cursor-pointer underline decoration-(--rule-strong) underline-offset-3"
              type="button"
              aria-label="{sign.where.length ? 'and where …' : 'only where …'}, for {type.noun}"
              onclick={async () =>
                filters(type.name, [...sign.where, await newFilter(type.name, properties[0]!.name)])}
              >{sign.where.length ? "and where …" : "only where …"}</button
            >
          {/if}
        </div>
      {/if}
    </li>
  {/each}
</ul>
