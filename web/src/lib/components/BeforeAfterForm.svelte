<script module lang="ts">
  /** What a study of before and after asks. */
  export type Asked = {
    /** Whether day 0 is one date for everybody. */
    around: boolean;
    first: string;
    from: string;
    to: string;
    date: string;
    audience: number | null;
    event: string;
    property: string | null;
    before: number;
    after: number;
  };
</script>

<script lang="ts">
  import { address } from "../address.svelte";
  import { answer, api, type Schemas } from "../api/client";
  import { numbersOf } from "../editor/values";
  import { Resource } from "../resource.svelte";
  import { workspace } from "../workspace.svelte";
  import NumberField from "./NumberField.svelte";
  import SelectField from "./SelectField.svelte";

  /** Where day 0 lies and what is measured; all of it stands in the address. */
  let { asked, types }: { asked: Asked; types: Schemas["EventType"][] } = $props();

  const START: [string, string][] = [
    ["first", "the first time of"],
    ["date", "a date for everybody"],
  ];
  const names = $derived(types.map(({ name }) => [name, name] as const));
  const audiences = new Resource(async (signal) => {
    const found = await answer(api.GET("/audiences", { params: { query: workspace.dates }, signal }));
    return found.audiences.map((row) => [String(row.id), row.name] as const);
  });

  function change(changes: Record<string, string | null>) {
    address.go(address.with(changes), { replace: true });
  }
</script>

{#snippet dated(label: string, key: "from" | "to" | "date")}
  <label class="field"
    >{label}
    <input
      type="date"
      value={asked[key]}
      max={workspace.asOf}
      onchange={(changed) => change({ [key]: changed.currentTarget.value || null })}
    /></label
  >
{/snippet}
{#snippet days(label: string, key: "before" | "after")}
  <NumberField
    {label}
    class="w-16"
    max="365"
    value={asked[key]}
    onchange={(changed) => change({ [key]: changed.currentTarget.value })}
  />
{/snippet}

<div class="mt-4 flex flex-wrap items-end gap-x-3 gap-y-2">
  <SelectField
    label="Day 0 is"
    value={asked.around ? "date" : "first"}
    options={START}
    changed={(value) => change({ around: value === "date" ? "date" : null })}
  />
  {#if asked.around}
    {@render dated("date", "date")}
    <SelectField
      label="of those in"
      value={String(asked.audience ?? "")}
      options={[["", "the whole base"], ...(audiences.data ?? [])]}
      changed={(audience) => change({ audience: audience || null })}
    />
  {:else}
    <SelectField
      label="event"
      name="What was done first"
      value={asked.first}
      options={names}
      changed={(first) => change({ first })}
    />
    {@render dated("from", "from")}
    {@render dated("to", "to")}
  {/if}
  <SelectField
    label="measured by"
    name="Measured by"
    value={asked.event}
    options={names}
    changed={(event) => change({ event, of: null })}
  />
  <SelectField
    label="as"
    name="Counted or summed"
    value={asked.property ?? ""}
    options={[["", "how often"], ...numbersOf(asked.event).map((name) => [name, `sum of ${name}`] as const)]}
    changed={(of) => change({ of: of || null })}
  />
  {@render days("days before", "before")}
  {@render days("days after", "after")}
</div>
