<script lang="ts">
  import { apiAddress } from "../lib/base";
  import { address } from "../lib/address.svelte";
  import { answer, api } from "../lib/api/client";
  import ErasePerson from "./ErasePerson.svelte";
  import PersonAudiences from "./PersonAudiences.svelte";
  import PersonFacts from "./PersonFacts.svelte";
  import PersonLifecycle from "./PersonLifecycle.svelte";
  import PersonOrigins from "./PersonOrigins.svelte";
  import PersonResponses from "./PersonResponses.svelte";
  import PersonTimeline from "./PersonTimeline.svelte";
  import StateMark from "../lifecycle/StateMark.svelte";
  import Waiting from "../ui/Waiting.svelte";
  import { day, plural } from "../lib/format";
  import { Live } from "../lib/live.svelte";
  import { session } from "../lib/session.svelte";
  import { workspace } from "../lib/workspace.svelte";

  let { id }: { id: number } = $props();

  const person = new Live(async (signal) => {
    const params = { path: { id }, query: workspace.dates };
    const found = await answer(api.GET("/people/{id}", { params, signal }));
    // Who was asked for has become part of somebody else.
    if (found.id !== id) address.go(address.to(`/people/${found.id}`), { replace: true });
    return found;
  });
  const name = $derived(person.data?.summary?.identifiers[0]?.value ?? `Person ${id}`);
</script>

{#if person.data}
  {@const about = person.data}
  <p class="soft small"><a href={address.to("/people")}>People</a> /</p>
  <div class="flex flex-wrap items-baseline gap-x-6">
    <h1>{name}</h1>
    <span class="ml-auto flex gap-2">
      {#if session.may("analyst")}<a
          class="quiet"
          href={apiAddress(`/people/${about.id}/everything.json`)}
          download>Download all data</a
        >{/if}
      {#if session.may("administrator")}<ErasePerson id={about.id} {name} />{/if}
    </span>
  </div>
  <p class="says mt-1">
    {#if !about.summary}
      This person was not known yet on {day(workspace.asOf)}.
    {:else if about.summary.state === "never_active"}
      {about.summary.profile_type}, no activity up to {day(workspace.asOf)}.
    {:else}
      A {about.summary.profile_type}, <StateMark
        state={about.summary.state}
        reactivated={about.summary.reactivated}
      />. Last active on
      {day(about.summary.last_day)}{about.summary.inactive_days
        ? `, inactive for ${plural(about.summary.inactive_days, "day")}`
        : ""}; first active on {day(about.summary.first_day)}.
    {/if}
  </p>

  <div class="mt-6 grid gap-x-12 gap-y-8 lg:grid-cols-[23rem_1fr]">
    <div class="min-w-0">
      <PersonFacts {about} />
      {#if about.summary}<PersonAudiences person={about.id} />{/if}
      {#if about.summary}<PersonResponses person={about.id} />{/if}
      {#if about.merges.length || about.moves.length}<PersonOrigins {about} />{/if}
    </div>
    <div class="flex min-w-0 flex-col gap-8">
      <div class="min-h-44"><PersonLifecycle person={about.id} /></div>
      <PersonTimeline {about} />
    </div>
  </div>
{:else}
  <Waiting problem={person.problem} retry={() => person.reload()} />
{/if}
