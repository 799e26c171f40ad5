<script lang="ts" generics="T extends Schemas['PersonRow']">
  import type { Snippet } from "svelte";
  import { address } from "../lib/address.svelte";
  import type { Schemas } from "../lib/api/client";
  import { day, number, percent } from "../lib/format";
  import { attributeField, propertyField, valueSaid } from "../lib/names";
  import { taken, type Column } from "../exports/exports";
  import { comparison } from "../audiences/comparison.svelte";
  import StateMark from "../lifecycle/StateMark.svelte";
  import ComparisonMark from "../audiences/ComparisonMark.svelte";

  /** People as rows; the first column leads to each. */
  let {
    rows,
    asOf = null,
    compared = [],
    columns = [],
    order = null,
    chosen = $bindable([]),
    choosing = false,
    heads,
    cells,
  }: {
    rows: T[];
    asOf?: string | null;
    /** The audiences of the comparison that `in` of a row is about. */
    compared?: number[];
    /** What else is shown of everybody, see `values` of a row. */
    columns?: Column[];
    /** Puts the rows in the order of a column, where that can be done. */
    order?: ((column: string) => void) | null;
    /** The people picked by hand. */
    chosen?: T[];
    choosing?: boolean;
    /** Further columns at the end instead of the other identifiers, and what stands in them. */
    heads?: Snippet;
    cells?: Snippet<[T]>;
  } = $props();

  const whole = $derived(rows.length > 0 && rows.every((row) => picked(row)));

  function picked(person: T): boolean {
    return chosen.some((other) => other.id === person.id);
  }

  function pick(person: T, on: boolean) {
    chosen = on ? [...chosen, person] : chosen.filter((other) => other.id !== person.id);
  }

  function pickAll(on: boolean) {
    const others = chosen.filter((other) => !rows.some((row) => row.id === other.id));
    chosen = on ? [...others, ...rows] : others;
  }

  /** A value of a column: attributes with their units, instants as days. */
  function told(column: Column, value: string | number | boolean | null | undefined): string {
    if (value === null || value === undefined) return "–";
    const attribute = /^attribute:(.*)$/.exec(column.take)?.[1];
    if (attribute) return valueSaid(attributeField(attribute), value);
    if (column.of) return percent(Number(value));
    if (column.take === "sum") return valueSaid(propertyField(column.property!, column.event), value);
    if (typeof value === "number") return number(value);
    return column.take === "first" || column.take === "last"
      ? day(String(value).slice(0, 10))
      : String(value);
  }

  function name(person: T): string {
    return person.identifiers[0]?.value ?? `no identifier (${person.id})`;
  }
</script>

<div class="overflow-x-auto">
  <table class="figures">
    <thead>
      <tr>
        {#if choosing}<th
            ><input
              type="checkbox"
              aria-label="Pick all on this page"
              checked={whole}
              onchange={(event) => pickAll(event.currentTarget.checked)}
            /></th
          >{/if}
        <th>Person</th>
        {#if !cells}<th>Other identifiers</th>{/if}
        {#if compared.length}<th>Audiences</th>{/if}
        <th>Profile type</th>
        <th>State</th>
        <th class="number">Days inactive</th>
        <th class="number">Last active</th>
        <th class="number">First active</th>
        {#each columns as column, index (index)}
          <th class="number"
            >{#if order}<button
                class="cursor-pointer font-[inherit] underline decoration-dotted"
                title="Sort by this column"
                onclick={() => order(`column:${index}`)}>{taken(column)}</button
              >{:else}{taken(column)}{/if}</th
          >
        {/each}
        {@render heads?.()}
      </tr>
    </thead>
    <tbody>
      {#each rows as person (person.id)}
        <tr>
          {#if choosing}
            <td
              ><input
                type="checkbox"
                aria-label="Pick {name(person)}"
                checked={picked(person)}
                onchange={(event) => pick(person, event.currentTarget.checked)}
              /></td
            >
          {/if}
          <td class="whitespace-nowrap">
            <a href={address.to(`/people/${person.id}`, { as_of: asOf })} class="font-semibold"
              >{name(person)}</a
            >
          </td>
          {#if !cells}
            <td class="soft small max-w-[22rem] truncate leading-6">
              {person.identifiers
                .slice(1)
                .map((identifier) => identifier.value)
                .join(", ")}
            </td>
          {/if}
          {#if compared.length}
            <td class="whitespace-nowrap">
              {#each person.in as index (index)}<span class="mr-1" title={comparison.name(compared[index]!)}
                  ><ComparisonMark position={comparison.position(compared[index]!)} /></span
                >{/each}
            </td>
          {/if}
          <td>{person.profile_type}</td>
          <td><StateMark state={person.state} reactivated={person.reactivated} /></td>
          <td class="number">{person.inactive_days === null ? "–" : number(person.inactive_days)}</td>
          <td class="number">{day(person.last_day)}</td>
          <td class="number">{day(person.first_day)}</td>
          {#each columns as column, index (index)}<td class="number"
              >{told(column, person.values?.[index])}</td
            >{/each}
          {@render cells?.(person)}
        </tr>
      {/each}
    </tbody>
  </table>
</div>
