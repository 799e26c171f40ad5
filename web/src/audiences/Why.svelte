<script lang="ts">
  import { address } from "../lib/address.svelte";
  import { answer, api } from "../lib/api/client";
  import { day } from "../lib/format";
  import { Live } from "../lib/live.svelte";
  import { workspace } from "../lib/workspace.svelte";
  import Verdict from "./Verdict.svelte";
  import Waiting from "../ui/Waiting.svelte";

  /** Why a person is in an audience or not. */
  let { person, definition }: { person: number; definition: Record<string, unknown> } = $props();

  const reasons = new Live((signal) => {
    return answer(api.POST("/audiences/why", { body: { definition, person, ...workspace.dates }, signal }));
  });
  const name = $derived(reasons.data?.person?.identifiers[0]?.value ?? `Person ${person}`);
</script>

{#if reasons.data}
  {@const found = reasons.data}
  <div data-testid="why">
    <p class="says text-[1.05rem]!">
      <a href={address.to(`/people/${person}`)}>{name}</a>
      {#if !found.seen}was not known yet on {day(found.as_of)}.
      {:else if found.member}matches: all conditions are met.
      {:else}does not match: {found.verdicts.filter((verdict) => !verdict.holds).length === 1
          ? "one condition is"
          : "some conditions are"} not met.{/if}
    </p>
    <ul class="mt-1">
      {#each found.verdicts as verdict (verdict.place)}<Verdict {verdict} nearest={found.nearest} />{/each}
    </ul>
  </div>
{:else}
  <Waiting problem={reasons.problem} retry={() => reasons.reload()} />
{/if}
