<script lang="ts">
  import type { Inspection, Mapping } from "./mapping";

  /** How a text file is encoded, as detected or chosen, or which sheet of a spreadsheet is read. */
  let {
    inspection,
    choose,
  }: { inspection: Inspection; choose: (form: Pick<Mapping, "encoding" | "sheet">) => void } = $props();

  const ENCODINGS: Record<NonNullable<Mapping["encoding"]>, string> = {
    "utf-8": "UTF-8",
    "windows-1252": "Windows-1252 (Western European)",
    "iso-8859-1": "Latin-1 (ISO 8859-1)",
    "utf-16le": "UTF-16, little-endian",
    "utf-16be": "UTF-16, big-endian",
  };
</script>

<div class="flex flex-wrap items-center gap-x-6 gap-y-2">
  {#if inspection.sheets.length}
    <label class="flex items-center gap-2"
      >Sheet
      <select
        value={inspection.mapping.sheet}
        onchange={(event) => choose({ sheet: event.currentTarget.value })}
      >
        {#each inspection.sheets as sheet (sheet)}<option value={sheet}>{sheet}</option>{/each}
      </select>
    </label>
    {#if inspection.sheets.length > 1}<span class="soft small">An import reads one sheet.</span>{/if}
  {:else if inspection.encoding}
    <label class="flex items-center gap-2"
      >Text encoding
      <select
        value={inspection.encoding}
        onchange={(event) => choose({ encoding: event.currentTarget.value as Mapping["encoding"] })}
      >
        {#each Object.entries(ENCODINGS) as [encoding, name] (encoding)}
          <option value={encoding}>{name}</option>
        {/each}
      </select>
    </label>
    {#if !inspection.mapping.encoding}<span class="soft small">detected</span>{/if}
  {/if}
</div>
