<script lang="ts">
  import { csvOf, jsonLinesOf, type Row } from "../lib/downloads";

  /** A table to take along, as CSV and as JSON Lines. */
  let { name, rows }: { name: string; rows: Row[] } = $props();
</script>

<span class="small inline-flex gap-3 whitespace-nowrap">
  <a href={csvOf(rows)} download="{name}.csv">CSV</a>
  <a href={jsonLinesOf(rows)} download="{name}.jsonl">JSON Lines</a>
</span>
