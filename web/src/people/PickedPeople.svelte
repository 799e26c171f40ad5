<script lang="ts">
  import { comparison, MOST } from "../audiences/comparison.svelte";
  import { address } from "../lib/address.svelte";
  import { answer, api, problemOf, type Schemas } from "../lib/api/client";
  import { number } from "../lib/format";
  import { audienceOf } from "../lib/groups";
  import { said } from "../lib/toasts.svelte";
  import { listed } from "./people";

  /** What can be done with people picked by hand: they are kept as an audience to be compared or exported. */
  let { chosen = $bindable() }: { chosen: Schemas["PersonRow"][] } = $props();

  let keeping = $state(false);
  const nameless = $derived(chosen.filter(({ identifiers }) => !identifiers.length).length);
  const group = $derived(listed(chosen));

  /** Keeps them as an audience, and goes on with that. */
  async function keep(then: (kept: Schemas["Audience"]) => void) {
    if (keeping) return;
    keeping = true;
    const count = chosen.length - nameless;
    const name = `${number(count)} ${count === 1 ? "selected person" : "selected people"}`;
    try {
      const kept = await answer(api.POST("/audiences", { body: { name, definition: { all: group } } }));
      said(`Saved as audience “${name}”`, async () => {
        comparison.remove(kept.id);
        await answer(api.DELETE("/audiences/{id}", { params: { path: { id: kept.id } } }));
      });
      chosen = [];
      then(kept);
    } catch (error) {
      said(problemOf(error).detail);
    } finally {
      keeping = false;
    }
  }
</script>

<span>{number(chosen.length)} selected:</span>
{#if group.length}
  <button
    class="underline"
    disabled={keeping || comparison.chosen.length >= MOST}
    title={comparison.chosen.length >= MOST
      ? `The comparison is full (${MOST} audiences). Remove one first.`
      : null}
    onclick={() => keep(({ id, name }) => comparison.add(id, name))}>Compare</button
  >
  <button
    class="underline"
    disabled={keeping}
    onclick={() => keep(({ id }) => address.go(address.to("/exports/new", { audience: String(id) })))}
    >Export</button
  >
  <a href={audienceOf(group)}>Create audience</a>
{/if}
{#if nameless}<span class="soft">{number(nameless)} without an identifier cannot be included</span>{/if}
<button class="underline" onclick={() => (chosen = [])}>Clear selection</button>
