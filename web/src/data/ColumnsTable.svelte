<script lang="ts">
  import { percent } from "../lib/format";
  import { MEANINGS, meaning, meaningOf, type Inspection, type Mapping } from "./mapping";

  /** The first rows of a file, and above each column what it means. */
  let { inspection, change }: { inspection: Inspection; change: (mapping: Mapping) => void } = $props();

  const ADDRESS = /^[^@\s]+@[^@\s]+$/;
  const rows = $derived(inspection.columns[0]?.values.length ?? 0);

  /** What had better be known about a column. */
  function note(column: Inspection["columns"][number]): string {
    const taken = meaningOf(inspection.mapping, column.name);
    const addresses = column.values.some((value) => value && ADDRESS.test(value));
    if (taken === "identifier.customer" && addresses) return "looks like email addresses";
    return column.filled === 0 ? "empty" : column.filled < 0.995 ? `${percent(column.filled)} filled` : "";
  }
</script>

<div class="overflow-x-auto">
  <table class="figures w-auto!" data-testid="columns-of-file">
    <thead>
      <tr>
        {#each inspection.columns as column (column.name)}
          <th class="pr-4! align-bottom">
            <span class="block max-w-44 truncate" title={column.name}>{column.name}</span>
            <select
              class="mt-1 w-36"
              aria-label="Meaning of {column.name}"
              value={meaningOf(inspection.mapping, column.name)}
              onchange={(event) =>
                change(meaning(inspection.mapping, column.name, event.currentTarget.value))}
            >
              {#each MEANINGS[inspection.kind] as [value, text] (value)}<option {value}>{text}</option>{/each}
            </select>
            <span class="soft small block h-5 font-normal">{note(column)}</span>
          </th>
        {/each}
      </tr>
    </thead>
    <tbody>
      {#each { length: rows }, row}
        <tr>
          {#each inspection.columns as column (column.name)}
            <td
              class="max-w-44 truncate pr-4! {meaningOf(inspection.mapping, column.name) === 'ignore'
                ? 'opacity-40'
                : ''}"
              title={column.values[row]}>{column.values[row] ?? ""}</td
            >
          {/each}
        </tr>
      {/each}
    </tbody>
  </table>
</div>
