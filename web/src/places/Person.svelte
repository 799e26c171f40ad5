<script lang="ts">
  import { address } from "../lib/address.svelte";
  import { answer, api } from "../lib/api/client";
  import Pager from "../lib/components/Pager.svelte";
  import StateMark from "../lib/components/StateMark.svelte";
  import Waiting from "../lib/components/Waiting.svelte";
  import { clock, day, number, plural } from "../lib/format";
  import { Resource } from "../lib/resource.svelte";
  import { workspace } from "../lib/workspace.svelte";

  let { id }: { id: number } = $props();

  const person = new Resource((signal) => {
    void workspace.policy;
    const params = { path: { id }, query: { as_of: workspace.asOf } };
    return answer(api.GET("/people/{id}", { params, signal }));
  });
  const events = new Resource((signal) => {
    const query = {
      as_of: workspace.asOf,
      type: address.get("type") ?? undefined,
      page: Number(address.get("page") ?? 1),
    };
    return answer(api.GET("/people/{id}/events", { params: { path: { id }, query }, signal }));
  });
  const days = $derived(Object.entries(Object.groupBy(events.data?.rows ?? [], (event) => event.day)));

  function shown(value: unknown): string {
    if (value === null || value === undefined) return "not set";
    return typeof value === "object" ? JSON.stringify(value) : String(value);
  }
</script>

{#if person.data}
  {@const about = person.data}
  <p class="soft small"><a href={address.to("/people")}>People</a> /</p>
  <h1>{about.summary?.identifiers[0]?.value ?? `Person ${id}`}</h1>
  <p class="says mt-1">
    {#if !about.summary}
      This person had not been seen by {day(workspace.asOf)}.
    {:else if about.summary.state === "unseen"}
      A {about.summary.kind} without any activity up to {day(workspace.asOf)}.
    {:else}
      A {about.summary.kind}, <StateMark state={about.summary.state} returned={about.summary.returned} />.
      Last active on
      {day(about.summary.last_day)}{about.summary.quiet_days
        ? `, quiet for ${plural(about.summary.quiet_days, "day")}`
        : ""}; first active on {day(about.summary.first_day)}.
    {/if}
  </p>

  <div class="mt-6 grid gap-x-12 gap-y-8 lg:grid-cols-[22rem_1fr]">
    <div>
      <h2>Identifiers</h2>
      <table class="figures">
        <tbody>
          {#each about.summary?.identifiers ?? [] as identifier (identifier.kind + identifier.value)}
            <tr><td class="soft w-28">{identifier.kind}</td><td class="break-all">{identifier.value}</td></tr>
          {:else}
            <tr><td class="soft">none</td></tr>
          {/each}
        </tbody>
      </table>
      <h2 class="mt-6">Attributes</h2>
      {#if about.attributes.length}
        <table class="figures">
          <thead><tr><th>Attribute</th><th>Value</th><th class="number">Since</th></tr></thead>
          <tbody>
            {#each about.attributes as attribute (attribute.name)}
              <tr>
                <td class="soft">{attribute.name}</td>
                <td class="break-words">{shown(attribute.value)}</td>
                <td
                  class="number small leading-6"
                  title={attribute.changes > 1 ? `${attribute.changes} values over time` : "never changed"}
                  >{day(attribute.since)}{attribute.changes > 1 ? " *" : ""}</td
                >
              </tr>
            {/each}
          </tbody>
        </table>
        {#if about.attributes.some((attribute) => attribute.changes > 1)}
          <p class="soft small mt-1">* has had other values before</p>
        {/if}
      {:else}
        <p class="soft">none</p>
      {/if}
    </div>

    <div>
      <h2>What they did</h2>
      <div class="mt-1 mb-2 flex flex-wrap gap-2" role="group" aria-label="Event type">
        <a
          class="quiet min-h-0! py-0.5! text-[0.9rem]"
          aria-current={address.get("type") ? undefined : "true"}
          href={address.with({ type: null, page: null })}>all</a
        >
        {#each about.event_types as type (type.name)}
          <a
            class="quiet min-h-0! py-0.5! text-[0.9rem]"
            aria-current={address.get("type") === type.name ? "true" : undefined}
            href={address.with({ type: type.name, page: null })}>{type.name} {number(type.count)}</a
          >
        {/each}
      </div>
      {#if events.data}
        {#each days as [date, list] (date)}
          <h3 class="mt-3 border-b border-(--rule-strong) text-[0.9rem] font-semibold">{day(date)}</h3>
          <ul data-testid="timeline">
            {#each list ?? [] as event (event.id)}
              <li class="flex gap-3 border-b border-(--rule) py-1">
                <time class="soft small w-16 shrink-0 leading-6" datetime={event.occurred_at}>
                  {clock(event.occurred_at, workspace.info!.time_zone)}
                </time>
                <span class="w-36 shrink-0 font-semibold">{event.type}</span>
                <span class="small flex-1 leading-6 break-words">
                  {#each Object.entries(event.properties) as [name, value] (name)}
                    <span class="mr-3 inline-block"><span class="soft">{name}</span> {shown(value)}</span>
                  {/each}
                </span>
                <span class="soft small leading-6">{event.source}</span>
              </li>
            {/each}
          </ul>
        {:else}
          <p class="soft mt-3">No such events up to {day(workspace.asOf)}.</p>
        {/each}
        <Pager total={events.data.total} perPage={events.data.per_page} name="events" />
      {:else}
        <Waiting problem={events.problem} retry={() => events.reload()} />
      {/if}
    </div>
  </div>
{:else}
  <Waiting problem={person.problem} retry={() => person.reload()} />
{/if}
