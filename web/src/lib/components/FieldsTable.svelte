<script lang="ts">
  import type { Schemas } from "../api/client";
  import { day, number, percent } from "../format";
  import Described from "./Described.svelte";
  import Volume from "./Volume.svelte";

  /** Properties or attributes: type, how many carry them, what values there are. */
  let {
    fields,
    what,
    describe,
  }: {
    fields: Schemas["SurveyedField"][];
    what: "Property" | "Attribute";
    describe: (field: Schemas["SurveyedField"], text: string) => Promise<void>;
  } = $props();
</script>

<table class="figures">
  <thead>
    <tr>
      <th>{what}</th>
      <th>Type</th>
      <th class="number">Carried by</th>
      <th class="pl-4!">Last 30 days</th>
      <th class="number">Seen from</th>
      <th class="number">to</th>
      <th class="pl-4!">Most frequent values</th>
      <th>Example</th>
      <th class="w-1/6">Description</th>
    </tr>
  </thead>
  <tbody>
    {#each fields as field (field.id)}
      <tr>
        <td class="font-semibold">{field.name}</td>
        <td>
          {field.type}
          {#if field.mixed}<span
              class="small text-(--alarm)"
              title="It has arrived with more than one type, so it is kept as text">⚑ type changed</span
            >{/if}
        </td>
        <td class="number" title={number(field.count)}>{percent(field.share)}</td>
        <td class="pl-4!"><Volume counts={field.volume} /></td>
        <td class="number small leading-6">{day(field.first_day)}</td>
        <td class="number small leading-6">{day(field.last_day)}</td>
        <td class="small pl-4! leading-6">
          {#each field.top.slice(0, 4) as entry (entry.value)}
            <span class="mr-3 inline-flex items-baseline gap-1"
              ><span class="max-w-28 truncate" title={entry.value}>{entry.value || "(empty)"}</span><span
                class="soft">{number(entry.count)}</span
              ></span
            >
          {/each}
        </td>
        <td class="small soft max-w-28 truncate leading-6" title={field.example}>{field.example ?? "–"}</td>
        <td>
          <Described
            text={field.description}
            label="Description of {field.name}"
            keep={(text) => describe(field, text)}
          />
        </td>
      </tr>
    {/each}
  </tbody>
</table>
