<script lang="ts">
  import { onMount, untrack } from "svelte";
  import { problemOf, type Problem } from "../lib/api/client";
  import { Form } from "../lib/form.svelte";
  import DateField from "../ui/DateField.svelte";
  import { groupings, MOST, seasonsOf, seen, type Grouping, type Season } from "./groupings.svelte";

  /** Writes seasons, or changes some: a name and days each. */
  let { grouping = null, close }: { grouping?: Grouping | null; close: () => void } = $props();

  const ENDS = [
    ["from", "First"],
    ["to", "Last"],
  ] as const;
  const empty = (): Season => ({ name: "", from: "", to: "" });
  const form = untrack(
    () =>
      new Form(`seasons-${grouping?.id ?? "new"}`, {
        name: grouping?.name ?? "",
        seasons: (grouping && seasonsOf(grouping)) ?? [empty(), empty()],
      }),
  );
  const name = $derived(form.fields.name);
  const seasons = $derived(form.fields.seasons);
  let refused = $state<Problem | null>(null);
  let busy = $state(false);
  let field = $state<HTMLInputElement>();
  onMount(() => field?.focus());

  const written = $derived(seasons.filter((season) => season.name.trim() || season.from || season.to));
  /** What is not yet as it has to be. */
  const wrong = $derived.by(() => {
    if (!name.trim()) return "Enter a name.";
    if (!written.length) return "Add at least one season.";
    if (written.some((season) => !season.name.trim())) return "Every season needs a name.";
    if (written.some(({ from, to }) => !from && !to)) return "Each season needs a start or end date.";
    const back = written.find(({ from, to }) => from && to && to < from);
    return back ? `“${back.name}” ends before it begins.` : null;
  });

  function leave() {
    form.end();
    close();
  }

  async function keep(event: SubmitEvent) {
    event.preventDefault();
    if (busy || wrong) return;
    busy = true;
    refused = null;
    const groups = written.map((season) => ({ name: season.name.trim(), who: seen(season) }));
    try {
      if (grouping) await groupings.change(grouping.id, { name, groups, updated_at: grouping.updated_at });
      else await groupings.add({ name, groups });
      leave();
    } catch (error) {
      refused = problemOf(error);
    }
    busy = false;
  }
</script>

<form
  class="mt-4 max-w-[46rem] border-t border-(--rule) pt-4"
  aria-label={grouping ? "Edit seasons" : "New seasons"}
  onsubmit={keep}
>
  <label class="field"
    >Name
    <input
      class="w-72"
      maxlength="255"
      placeholder="Seasons"
      bind:this={field}
      bind:value={form.fields.name}
    />
  </label>
  <table class="mt-3">
    <thead
      ><tr class="soft small text-left"
        ><th class="font-normal">Season</th><th class="font-normal">from</th><th class="font-normal">to</th
        ><th></th></tr
      ></thead
    >
    <tbody>
      {#each seasons as season, at (at)}
        <tr>
          <td class="pr-3 pb-2"
            ><input
              class="w-48"
              aria-label="Name of season {at + 1}"
              maxlength="100"
              bind:value={season.name}
            /></td
          >
          {#each ENDS as [end, which] (end)}
            <td class="pr-3 pb-2"
              ><DateField
                label="{which} day of season {at + 1}"
                value={season[end]}
                optional
                change={(iso) => (season[end] = iso)}
              /></td
            >
          {/each}
          <td
            ><button
              type="button"
              class="soft cursor-pointer px-1"
              aria-label="Remove season {at + 1}"
              onclick={() => (form.fields.seasons = seasons.filter((_, index) => index !== at))}>×</button
            ></td
          >
        </tr>
      {/each}
    </tbody>
  </table>
  <p class="soft small">
    People belong to the season in which they were first seen; in Retention and Lifetime value, to the season
    of their start event. If seasons overlap, the first in the list applies. Leave a date empty for no limit.
  </p>
  <p class="mt-3 flex flex-wrap items-center gap-3">
    {#if seasons.length < MOST}<button
        type="button"
        class="quiet"
        onclick={() => (form.fields.seasons = [...seasons, empty()])}>Add season</button
      >{/if}
    <button class="act" disabled={busy || wrong !== null} title={wrong}>Save</button>
    <button type="button" class="cursor-pointer underline" onclick={leave}>Cancel</button>
    {#if refused}<span role="alert" class="text-(--alarm)">{refused.detail}</span>{/if}
  </p>
</form>
