<script lang="ts">
  import { problemOf, type Schemas } from "../lib/api/client";
  import { day, number, percent } from "../lib/format";
  import { session } from "../lib/session.svelte";
  import Described from "../ui/Described.svelte";
  import QuantityField from "./QuantityField.svelte";
  import ValueNames from "./ValueNames.svelte";
  import Volume from "./Volume.svelte";

  /** Properties or attributes: type, how many carry them, what values there are. */
  let {
    fields,
    what,
    keep,
  }: {
    fields: Schemas["SurveyedField"][];
    what: "Property" | "Attribute";
    /** Keeps what somebody notes about it: its name and unit, what it means, whether it is personal. */
    keep: (field: Schemas["SurveyedField"], said: Schemas["FieldSaid"]) => Promise<void>;
  } = $props();

  let fault = $state("");

  async function marked(field: Schemas["SurveyedField"], box: HTMLInputElement) {
    try {
      await keep(field, { personal: box.checked });
      fault = "";
    } catch (error) {
      box.checked = field.personal;
      fault = problemOf(error).detail;
    }
  }
</script>

{#if fault}<p role="alert" class="small text-(--alarm)">{fault}</p>{/if}
<table class="figures">
  <thead>
    <tr>
      <th>{what}</th>
      <th>Type</th>
      <th title="Viewers cannot see or query personal fields">Personal</th>
      <th class="number">Fill rate</th>
      <th class="pl-4!">Last 30 days</th>
      <th class="number">First seen</th>
      <th class="number">Last seen</th>
      <th class="pl-4!">Most frequent values</th>
      <th>Example</th>
      <th class="w-1/6">Description</th>
    </tr>
  </thead>
  <tbody>
    {#each fields as field (field.id)}
      <tr>
        <td class="min-w-32">
          <Described
            text={field.display ?? ""}
            label="Name of {field.name}"
            placeholder={field.suggested}
            most={120}
            keep={(display) => keep(field, { display: display || null })}
          />
          {#if field.name !== (field.display ?? field.suggested)}<span class="soft small block px-1 leading-4"
              >{field.name}</span
            >{/if}
        </td>
        <td>
          {field.type}
          {#if field.type === "number"}<QuantityField {field} keep={(said) => keep(field, said)} />{/if}
          {#if field.mixed}<span
              class="small text-(--alarm)"
              title="Received with more than one type, so stored as text">⚑ type changed</span
            >{/if}
          {#if field.out_of_range}<span
              class="small text-(--alarm)"
              title="Some numbers are too large to store exactly, so they are stored as text"
              >⚑ large numbers as text</span
            >{/if}
        </td>
        <td class="whitespace-nowrap">
          <label class="inline-flex items-baseline gap-1">
            <input
              type="checkbox"
              aria-label="{field.name} is personal"
              checked={field.personal}
              disabled={!session.may("analyst")}
              onchange={(event) => marked(field, event.currentTarget)}
            />
            {#if field.personal && field.personal_said === null}<span
                class="soft small"
                title="Suggested from its name or values; not confirmed yet">suggested</span
              >{/if}
          </label>
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
          {#if field.type === "text" || field.type === "list"}
            <ValueNames {field} keep={(value_names) => keep(field, { value_names })} />
          {/if}
        </td>
        <td class="small soft max-w-28 truncate leading-6" title={field.example}>{field.example ?? "–"}</td>
        <td>
          <Described
            text={field.description}
            label="Description of {field.name}"
            keep={(description) => keep(field, { description })}
          />
        </td>
      </tr>
    {/each}
  </tbody>
</table>
