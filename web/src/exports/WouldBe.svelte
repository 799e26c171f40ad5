<script lang="ts">
  import type { ComponentProps } from "svelte";
  import type { Schemas } from "../lib/api/client";
  import { number, plural } from "../lib/format";
  import HoldoutShows from "./HoldoutShows.svelte";
  import WaterfallTable from "./WaterfallTable.svelte";
  import type { Written } from "./exports";

  /** What would become of everybody, and what the holdout could show of it. */
  type Table = ComponentProps<typeof WaterfallTable>;
  let {
    people,
    before,
    settings,
    loading,
    holdout,
    opened,
    open,
  }: {
    people: Table["people"];
    before?: Table["before"];
    settings: Written;
    loading: boolean;
    holdout: Schemas["Holdout"] | null;
    opened: Table["opened"];
    open: Table["open"];
  } = $props();
</script>

<p class="says" data-testid="finding">
  {number(people.exported)} of {plural(people.audience, "person", "people")} would be exported.
</p>
<div class="mt-2 overflow-x-auto" aria-busy={loading}>
  <WaterfallTable {people} {before} channel={settings.rules.channel} {opened} {open} />
</div>
{#if holdout}
  <HoldoutShows
    audience={settings.audience_id}
    {holdout}
    people={people.exported + people.holdout}
    every={settings.rules.schedule?.every ?? null}
  />
{/if}
