<script lang="ts">
  import { eventName, propertyField } from "../lib/names";
  import DateField from "../ui/DateField.svelte";
  import { address } from "../lib/address.svelte";
  import { answer, api, type Schemas } from "../lib/api/client";
  import { clock, day, duration, number, plural } from "../lib/format";
  import { Resource } from "../lib/resource.svelte";
  import { workspace } from "../lib/workspace.svelte";
  import Facts from "../ui/Facts.svelte";
  import Pager from "../ui/Pager.svelte";
  import Waiting from "../ui/Waiting.svelte";
  import { visitsOf } from "./visits";

  /** What one person did, newest first, visit by visit. */
  let { about }: { about: Schemas["Person"] } = $props();

  const zone = $derived(workspace.info!.time_zone);
  const chosen = $derived(about.event_types.find((type) => type.name === address.get("type")));
  const events = new Resource((signal) => {
    const query = {
      as_of: workspace.asOf,
      type: address.get("type") ?? undefined,
      until: address.get("until") ?? undefined,
      page: Number(address.get("page") ?? 1),
    };
    return answer(api.GET("/people/{id}/events", { params: { path: { id: about.id }, query }, signal }));
  });
  const groups = $derived(events.data ? visitsOf(events.data) : []);
</script>

<div>
  <div class="flex flex-wrap items-baseline gap-x-6">
    <h2>Event history</h2>
    <label class="small ml-auto flex items-center gap-2">
      up to
      <DateField
        label="up to"
        most={workspace.asOf}
        value={address.get("until") ?? workspace.asOf}
        change={(until) => address.go(address.with({ until: until || null, page: null }))}
      />
    </label>
  </div>
  <div class="mt-1 mb-2 flex flex-wrap gap-2" role="group" aria-label="Event type">
    <a
      class="quiet min-h-0! py-0.5! text-[0.9rem]"
      aria-current={address.get("type") ? undefined : "true"}
      href={address.with({ type: null, page: null })}>all</a
    >
    {#each about.event_types as type (type.name)}
      <a
        class="quiet min-h-0! py-0.5! text-[0.9rem]"
        title="{type.name}: first {day(type.first)}, last {day(type.last)}"
        aria-current={address.get("type") === type.name ? "true" : undefined}
        href={address.with({ type: type.name, page: null })}>{eventName(type.name)} {number(type.count)}</a
      >
    {/each}
  </div>
  {#if chosen}
    <p class="soft small mb-2">
      {number(chosen.count)} × {eventName(chosen.name)}: first on {day(chosen.first)}, last on {day(
        chosen.last,
      )}.
    </p>
  {/if}
  {#if events.data}
    {#each groups as { visit, rows }, index (index)}
      <h3
        class="mt-4 flex items-baseline gap-3 border-b border-(--rule-strong) text-[0.9rem]"
        data-testid={visit ? "visit" : "no-visit"}
      >
        <span class="font-semibold"
          >{day(rows[0]!.day)}, {clock(visit?.first ?? rows.at(-1)!.occurred_at, zone).slice(0, 5)}</span
        >
        <span class="soft small ml-auto"
          >{#if visit}visit {number(visit.number)}, {plural(visit.count, "event")}{visit.count > 1
              ? ` in ${duration(visit.seconds)}`
              : ""}{:else}not part of a visit{/if}</span
        >
      </h3>
      <ul data-testid="timeline">
        {#each rows as event (event.id)}
          <li class="flex gap-3 border-b border-(--rule) py-1">
            <time class="soft small w-16 shrink-0 leading-6" datetime={event.occurred_at}>
              {clock(event.occurred_at, zone)}
            </time>
            <span class="w-36 shrink-0 font-semibold break-words" title={event.type}
              >{eventName(event.type)}</span
            >
            <span class="small flex-1 leading-6 break-words"
              ><Facts facts={event.properties} field={(name) => propertyField(name, event.type)} /></span
            >
            <span class="soft small leading-6">{event.source}</span>
          </li>
        {/each}
      </ul>
    {:else}
      <p class="soft mt-3">
        No events up to {day(address.get("until") ?? workspace.asOf)}.
      </p>
    {/each}
    <Pager total={events.data.total} perPage={events.data.per_page} name="events" />
  {:else}
    <Waiting problem={events.problem} retry={() => events.reload()} />
  {/if}
</div>
