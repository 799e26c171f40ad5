<script lang="ts" module>
  import type { Schemas } from "../lib/api/client";

  type Table = Schemas["AnalysisTable"];

  /** The figures of a table to take along, by the keys of its columns. */
  export function rowsOf(table: Table, rows = table.rows) {
    return rows.map((row) =>
      Object.fromEntries(table.columns.map(({ key }, index) => [key, row.values[index] ?? null])),
    );
  }
</script>

<script lang="ts">
  import type { Snippet } from "svelte";
  import Explained from "../help/Explained.svelte";
  import { termOf } from "../help/glossary";
  import AsAudience from "../audiences/AsAudience.svelte";
  import Downloads from "../ui/Downloads.svelte";
  import Shortened from "../ui/Shortened.svelte";
  import StateMark from "../lifecycle/StateMark.svelte";
  import { number, percent, plural } from "../lib/format";
  import { audienceOf, peopleOf } from "../lib/groups";
  import { ALL_STATES } from "../lifecycle/lifecycle";
  import type { State } from "../lifecycle/states";
  import { said } from "./figures";

  /**
   * A table of an answer: sorted by a click on a column, its counts of people open as people, its rows as audiences, and
   * all of it can be downloaded. What is incomplete is hatched.
   */
  let {
    table,
    asOf = null,
    choosing = false,
    newest = false,
    href,
    mark,
    note,
  }: {
    table: Table;
    asOf?: string | null;
    /** Whether rows can be chosen together. */
    choosing?: boolean;
    /** Whether the last rows come first. */
    newest?: boolean;
    /** Where a cell leads instead of to its people, by the key of its column. */
    href?: ((row: Row, key: string) => string | null) | undefined;
    /** Stands before the name of a row. */
    mark?: Snippet<[Row]> | undefined;
    /** Stands behind the name of a row. */
    note?: ((row: Row) => string | null) | undefined;
  } = $props();

  type Column = Table["columns"][number];
  type Row = Table["rows"][number];
  const COMPLETE = "complete";
  const SHOWN = 12;
  const WORDS = ["text", "date", "state", "flag"];

  let sorted = $state<{ column: number; down: boolean } | null>(null);
  let all = $state(false);
  let chosen = $state.raw<Row[]>([]);
  const given = $derived(newest ? table.rows.toReversed() : table.rows);
  const rows = $derived(sorted ? given.toSorted(order(sorted.column, sorted.down)) : given);
  const complete = $derived(table.columns.findIndex((column) => column.key === COMPLETE));
  const shown = $derived(all ? rows : rows.slice(0, SHOWN));
  const opens = $derived(table.rows.some((row) => row.people));
  const picked = $derived(chosen.filter((row) => table.rows.includes(row)));
  const together = $derived(
    picked.length === 1 ? picked[0]!.people! : { any: picked.map((row) => row.people!) },
  );

  /** What is missing comes last either way. */
  function order(column: number, down: boolean) {
    return (one: Row, other: Row) => {
      const [a, b] = [one.values[column] ?? null, other.values[column] ?? null];
      if (a === null || b === null) return Number(a === null) - Number(b === null);
      const found =
        typeof a === "number" && typeof b === "number" ? a - b : String(a).localeCompare(String(b));
      return down ? -found : found;
    };
  }

  function sort(column: number) {
    const words = WORDS.includes(table.columns[column]!.kind);
    if (sorted?.column !== column) sorted = { column, down: !words };
    else sorted = sorted.down === words ? null : { column, down: words };
  }

  function definition(row: Row, column: Column) {
    return row.cells[column.key] ?? (column.kind === "people" ? row.people : null);
  }

  /** The column that a count is a share of. */
  function whole(row: Row, column: Column): number | null {
    const found = row.values[table.columns.findIndex((other) => other.key === column.of)];
    return typeof found === "number" && found > 0 ? found : null;
  }

  function name(row: Row): string {
    const words = table.columns.findIndex((column) => WORDS.includes(column.kind));
    return words < 0 ? table.title : said(row.values[words], table.columns[words]!.kind);
  }

  function place({ kind }: Column): string {
    if (kind === "text") return "min-w-20 max-w-96 pr-5!";
    return WORDS.includes(kind) ? "pr-5! whitespace-nowrap" : "number pl-5! whitespace-nowrap";
  }

  function choose(row: Row) {
    chosen = chosen.includes(row) ? chosen.filter((other) => other !== row) : [...chosen, row];
  }
</script>

<section class="mt-7" data-testid="table-{table.key}">
  <div class="flex flex-wrap items-baseline gap-x-4">
    <h2>{table.title}</h2>
    <Downloads name={table.key} rows={rowsOf(table, rows)} />
  </div>
  <div class="mt-1 overflow-x-auto">
    <table class="figures w-auto!" aria-label={table.title}>
      <thead>
        <tr>
          {#if choosing && opens}<th><span class="sr-only">Chosen</span></th>{/if}
          {#each table.columns as column, index (column.key)}{#if index !== complete}
              <th
                class="{place(column)} align-bottom whitespace-normal!"
                aria-sort={sorted?.column === index ? (sorted.down ? "descending" : "ascending") : undefined}
              >
                <button
                  class="w-max max-w-32 cursor-pointer text-[length:inherit] font-[inherit] [text-align:inherit]"
                  onclick={() => sort(index)}
                  ><Shortened text={column.label} />{sorted?.column === index
                    ? sorted.down
                      ? " ↓"
                      : " ↑"
                    : ""}</button
                >
                {#if termOf(column.key)}<Explained term={termOf(column.key)!} />{/if}
              </th>
            {/if}{/each}
          {#if opens}<th><span class="sr-only">Create audience</span></th>{/if}
        </tr>
      </thead>
      <tbody>
        {#each shown as row, at (at)}
          {@const open = complete < 0 || row.values[complete] !== false}
          {@const noted = note?.(row)}
          <tr class={open ? "" : "unfinished"}>
            {#if choosing && opens}
              <td
                >{#if row.people}<input
                    type="checkbox"
                    aria-label="Choose {name(row)}"
                    checked={picked.includes(row)}
                    onchange={() => choose(row)}
                  />{/if}</td
              >
            {/if}
            {#each table.columns as column, index (column.key)}{#if index !== complete}
                {@const value = row.values[index]}
                {@const people = value === null ? null : definition(row, column)}
                {@const link =
                  href?.(row, column.key) ?? (people && value !== 0 ? peopleOf([people], asOf) : null)}
                {@const of = column.of ? whole(row, column) : null}
                <td class={place(column)}>
                  {#if index === 0}{@render mark?.(row)}{/if}
                  {#if column.kind === "state" && (ALL_STATES as unknown[]).includes(value)}
                    <StateMark state={value as State} />
                  {:else if link}
                    <a class={column.kind === "people" ? "font-semibold" : ""} href={link}
                      ><Shortened text={said(value, column.kind)} /></a
                    >
                  {:else}<span class={value === null || value === 0 ? "soft" : ""}
                      ><Shortened text={said(value, column.kind)} /></span
                    >{/if}
                  {#if column.of}<span class="soft small inline-block w-10"
                      >{of && typeof value === "number" ? percent(value / of) : ""}</span
                    >{/if}
                  {#if index === 0 && !open}<span class="soft small ml-2">incomplete</span>{/if}
                  {#if index === 0 && noted}<span class="ml-2 text-(--alarm)">{noted}</span>{/if}
                </td>
              {/if}{/each}
            {#if opens}
              <td class="pl-5! whitespace-nowrap"
                >{#if row.people}<AsAudience name={name(row)} conditions={[row.people]} {asOf} />{/if}</td
              >
            {/if}
          </tr>
        {/each}
      </tbody>
    </table>
  </div>
  {#if rows.length > SHOWN}
    <button class="quiet mt-2" onclick={() => (all = !all)}
      >{all ? `Show first ${SHOWN}` : `Show all ${number(rows.length)}`}</button
    >
  {/if}
  {#if choosing && opens}
    <p class="mt-1 min-h-7" aria-live="polite">
      {#if picked.length}
        {plural(picked.length, "row")} selected:
        <a class="ml-2" href={peopleOf([together], asOf)}>View people</a>
        <a class="ml-2" href={audienceOf([together], asOf)}>create an audience</a>
      {/if}
    </p>
  {/if}
</section>
