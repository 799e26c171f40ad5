<script lang="ts">
  import { propertyName } from "../lib/names";
  import { numbersOf } from "../audiences/editor/values";
  import { chance, CHANCES, defaultName, FIGURES, taken, type Column } from "./exports";
  import AddChoice from "../ui/AddChoice.svelte";
  import { workspace } from "../lib/workspace.svelte";

  /** The columns of an export: what each takes and is called, in order. */
  let { columns = $bindable(), channel }: { columns: Column[]; channel: string | null | undefined } =
    $props();

  const types = $derived(workspace.catalogue?.event_types ?? []);
  const available = $derived([
    ...(channel === "email" || channel === "sms" ? ["address"] : []),
    ...(workspace.catalogue?.columns ?? []),
  ]);
  const groups = $derived([
    [
      "Identifiers and attributes",
      available.filter((take) => /^identifier:|^address$|^profile_type$/.test(take)),
    ],
    ["Lifecycle", available.filter((take) => !/:|^address$|^profile_type$/.test(take))],
    ["attributes", available.filter((take) => take.startsWith("attribute:"))],
  ] as const);

  function figure(column: Column): boolean {
    return FIGURES.some(([key]) => key === column.take);
  }

  function add(take: string) {
    const [, of] = take.split("/");
    if (of) {
      columns = [...columns, chance(of as keyof typeof CHANCES)];
      return;
    }
    const event = types[0]?.name;
    columns = [...columns, FIGURES.some(([key]) => key === take) ? { take, event } : { take }];
  }

  function move(index: number, by: number) {
    const next = [...columns];
    const [one] = next.splice(index, 1);
    next.splice(index + by, 0, one!);
    columns = next;
  }

  /** Calls every column as it is called on screen, or by its raw name. */
  function head(shown: boolean) {
    columns = columns.map((column) => ({ ...column, as: shown ? taken(column) : undefined }));
  }

  function change(index: number, changes: Partial<Column>) {
    columns = columns.map((column, at) => (at === index ? { ...column, ...changes } : column));
  }
</script>

<ol class="flex flex-col" data-testid="columns">
  {#each columns as column, index (index)}
    <li class="flex flex-wrap items-center gap-2 border-b border-(--rule) py-1">
      <span class="min-w-40">{taken(column)}</span>
      {#if column.of}
        <label class="small flex items-center gap-1"
          >days <input
            type="number"
            min="7"
            max="180"
            class="w-20"
            value={column.days}
            onchange={(event) =>
              event.currentTarget.value && change(index, { days: Number(event.currentTarget.value) })}
          /></label
        >
      {/if}
      {#if figure(column)}
        <select
          aria-label="Event of column {index + 1}"
          value={column.event}
          onchange={(event) => change(index, { event: event.currentTarget.value, property: undefined })}
        >
          {#each types as type (type.name)}<option value={type.name}>{type.noun}</option>{/each}
        </select>
        {#if column.take === "sum"}
          <select
            aria-label="Property of column {index + 1}"
            value={column.property ?? ""}
            onchange={(event) => change(index, { property: event.currentTarget.value })}
          >
            <option value="" disabled>choose a property</option>
            {#each numbersOf(column.event) as name (name)}<option value={name}
                >{propertyName(name, column.event)}</option
              >{/each}
          </select>
        {/if}
        <label class="small flex items-center gap-1"
          >days <input
            type="number"
            min="1"
            max="3650"
            class="w-20"
            placeholder="all"
            value={column.days ?? ""}
            oninput={(event) => change(index, { days: Number(event.currentTarget.value) || undefined })}
          /></label
        >
      {/if}
      <label class="small soft ml-auto flex items-center gap-2"
        >header <input
          class="w-44"
          maxlength="255"
          placeholder={defaultName(column)}
          value={column.as ?? ""}
          oninput={(event) => change(index, { as: event.currentTarget.value.trim() || undefined })}
        /></label
      >
      <span class="flex gap-1">
        <button
          class="quiet"
          aria-label="Column {index + 1} up"
          disabled={index === 0}
          onclick={() => move(index, -1)}>↑</button
        >
        <button
          class="quiet"
          aria-label="Column {index + 1} down"
          disabled={index === columns.length - 1}
          onclick={() => move(index, 1)}>↓</button
        >
        <button
          class="quiet"
          aria-label="Remove column {index + 1}, {taken(column)}"
          onclick={() => (columns = columns.filter((_, at) => at !== index))}>×</button
        >
      </span>
    </li>
  {/each}
</ol>
<div class="mt-2">
  <AddChoice what="a column" {add}>
    {#each groups as [name, takes] (name)}
      <optgroup label={name}>
        {#each takes as take (take)}<option value={take}>{taken({ take })}</option>{/each}
        {#if name === "Lifecycle" && takes.includes("state")}
          {#each Object.entries(CHANCES) as [of, words] (of)}<option value="chance/{of}">{words} …</option
            >{/each}
        {/if}
      </optgroup>
    {/each}
    <optgroup label="Events">
      {#each FIGURES as [take, name] (take)}<option value={take}>{name} …</option>{/each}
    </optgroup>
  </AddChoice>
</div>
<label class="small mt-2 flex items-center gap-2">
  <input
    type="checkbox"
    checked={columns.length > 0 && columns.every((column) => column.as === taken(column))}
    onchange={(event) => head(event.currentTarget.checked)}
  /> Use display names as headers
</label>
