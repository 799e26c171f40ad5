<script lang="ts">
  import { address } from "../lib/address.svelte";
  import type { Schemas } from "../lib/api/client";
  import { day, number } from "../lib/format";
  import { comparison } from "../audiences/comparison.svelte";
  import StateMark from "../lifecycle/StateMark.svelte";
  import ComparisonMark from "../audiences/ComparisonMark.svelte";

  /** People as rows; the first column leads to each. */
  let {
    rows,
    asOf = null,
    compared = [],
  }: {
    rows: Schemas["PersonRow"][];
    asOf?: string | null;
    /** The audiences of the comparison that `in` of a row is about. */
    compared?: number[];
  } = $props();

  function name(person: Schemas["PersonRow"]): string {
    return person.identifiers[0]?.value ?? `no identifier (${person.id})`;
  }
</script>

<div class="overflow-x-auto">
  <table class="figures">
    <thead>
      <tr>
        <th>Person</th>
        <th>Other identifiers</th>
        {#if compared.length}<th>In</th>{/if}
        <th>Profile type</th>
        <th>State</th>
        <th class="number">Inactive days</th>
        <th class="number">Last active</th>
        <th class="number">First active</th>
      </tr>
    </thead>
    <tbody>
      {#each rows as person (person.id)}
        <tr>
          <td class="whitespace-nowrap">
            <a href={address.to(`/people/${person.id}`, { as_of: asOf })} class="font-semibold"
              >{name(person)}</a
            >
          </td>
          <td class="soft small max-w-[22rem] truncate leading-6">
            {person.identifiers
              .slice(1)
              .map((identifier) => identifier.value)
              .join(", ")}
          </td>
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
        </tr>
      {/each}
    </tbody>
  </table>
</div>
