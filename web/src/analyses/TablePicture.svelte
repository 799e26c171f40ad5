<script lang="ts">
  import GroupedBars from "../charts/GroupedBars.svelte";
  import LinePlot from "../charts/LinePlot.svelte";
  import RowBars from "../charts/RowBars.svelte";
  import type { Schemas } from "../lib/api/client";
  import { address } from "../lib/address.svelte";
  import { peopleOf } from "../lib/groups";
  import { dateMarks } from "../lifecycle/lifecycle";
  import { said } from "./figures";

  /**
   * A plain picture of a figure of a table: lines over dates or days, bars for anything else. What stands for people
   * opens into them.
   */
  let { table, figure, asOf }: { table: Schemas["AnalysisTable"]; figure: string; asOf: string } = $props();

  type Row = Schemas["AnalysisTable"]["rows"][number];
  const INKS = 6;
  const MOST_LINES = 8;
  const MOST_BARS = 14;
  const DATES = 6;
  const WORDS = ["text", "state", "date", "days"];

  const shown = $derived(table.figures.find(({ key }) => key === figure) ?? table.figures[0]!);
  const series = $derived(
    shown.lines.slice(0, MOST_LINES).map(({ column, name }, index) => {
      const at = table.columns.findIndex(({ key }) => key === column);
      return { name, column, at, colour: `var(--comparison-${index % INKS})`, dashed: index >= INKS };
    }),
  );
  const kind = $derived(table.columns[series[0]!.at]!.kind);
  const first = $derived(table.columns[0]!.kind);
  const overTime = $derived((first === "date" || first === "days") && table.rows.length > 1);
  const complete = $derived(table.columns.findIndex(({ key }) => key === "complete"));
  const unfinished = $derived(table.rows.findIndex((row) => complete >= 0 && row.values[complete] === false));
  const rows = $derived(table.rows.slice(0, MOST_BARS));
  const format = (value: number) => said(value, kind);
  const value = (row: Row, at: number) => {
    const found = row.values[at];
    return typeof found === "number" ? found : null;
  };
  const marks = $derived.by(() => {
    if (first === "date") return dateMarks(table.rows.map((row) => String(row.values[0])));
    const step = Math.ceil(table.rows.length / DATES);
    return table.rows.flatMap((row, at) => (at % step ? [] : [{ at, text: said(row.values[0], first) }]));
  });

  /** Of a table over time the days of its periods, by which notes are drawn. */
  const periods = $derived.by(() => {
    if (first !== "date") return null;
    const last = table.columns.findIndex(({ key }) => key === "to");
    return table.rows.map((row) => ({
      from: String(row.values[0]),
      to: String(row.values[last < 0 ? 0 : last]),
    }));
  });

  function name(row: Row): string {
    const end = table.columns.findIndex((column) => !WORDS.includes(column.kind));
    return row.values
      .slice(0, Math.max(1, end))
      .map((one, at) => said(one, table.columns[at]!.kind))
      .join(", ");
  }

  function people(row: Row, column: string): string | null {
    const found = row.cells[column] ?? (kind === "people" ? row.people : null);
    return found ? peopleOf([found], asOf) : null;
  }
</script>

{#if overTime}
  <LinePlot
    label="{shown.label}: {table.title}"
    lines={series.map(({ name, at, colour, dashed }) => ({
      name: series.length > 1 ? name : "",
      colour,
      ...(dashed ? { dash: "5 3" } : {}),
      values: table.rows.map((row) => value(row, at)),
    }))}
    xs={table.rows.map((_, index) => index)}
    {marks}
    {format}
    least={Math.min(0, ...series.flatMap(({ at }) => table.rows.map((row) => value(row, at) ?? 0)))}
    unfinished={unfinished < 0 ? null : unfinished}
    days={periods}
    height={260}
    room={series.length > 1 ? 190 : 70}
    open={series.length === 1
      ? (place) => {
          const link = people(table.rows[place]!, series[0]!.column);
          if (link) address.go(link);
        }
      : undefined}
  />
{:else if series.length === 1}
  <RowBars
    label="{shown.label}: {table.title}"
    rows={rows.map((row) => {
      const found = value(row, series[0]!.at);
      const href = people(row, series[0]!.column);
      return { name: name(row), value: found, said: said(found, kind), colour: series[0]!.colour, href };
    })}
  />
{:else}
  <GroupedBars
    label="{shown.label}: {table.title}"
    places={rows.map(name)}
    {format}
    height={260}
    series={series.map(({ name, at, colour, column }) => ({
      name,
      colour,
      values: rows.map((row) => value(row, at)),
      hrefs: rows.map((row) => people(row, column)),
    }))}
  />
  <p class="small flex flex-wrap gap-x-5">
    {#each series as { name, colour } (name)}
      <span><span class="inline-block h-2.5 w-2.5" style:background={colour}></span> {name}</span>
    {/each}
  </p>
{/if}
