<script lang="ts">
  import { apiAddress } from "../lib/base";
  import { onMount, untrack } from "svelte";
  import { address } from "../lib/address.svelte";
  import { answer, api, type Schemas } from "../lib/api/client";
  import Pager from "../ui/Pager.svelte";
  import PeopleConditions from "./PeopleConditions.svelte";
  import type { Node } from "../audiences/definition";
  import { taken, type Column } from "../exports/exports";
  import { audienceOf } from "../lib/groups";
  import { session } from "../lib/session.svelte";
  import { columnsOf } from "./people";
  import PeopleColumns from "./PeopleColumns.svelte";
  import PeopleTable from "./PeopleTable.svelte";
  import PickedPeople from "./PickedPeople.svelte";
  import StateMark from "../lifecycle/StateMark.svelte";
  import Waiting from "../ui/Waiting.svelte";
  import { day, number } from "../lib/format";
  import { Live } from "../lib/live.svelte";
  import { Resource } from "../lib/resource.svelte";
  import { SEEN_STATES, stateName, type State } from "../lifecycle/states";
  import { comparison } from "../audiences/comparison.svelte";
  import { workspace } from "../lib/workspace.svelte";

  const WAIT = 200;
  const STATES: State[] = [...SEEN_STATES, "never_active"];
  type ProfileType = Schemas["ProfileType"];
  const PROFILE_TYPES: ProfileType[] = ["customer", "contact", "visitor"];

  let searching = $state(address.get("search") ?? "");
  let field = $state<HTMLInputElement>();
  let timer: ReturnType<typeof setTimeout>;
  const audienceId = $derived(address.get("audience"));
  /** The standing holdout that holds them. */
  const heldBy = $derived(address.get("held_by"));

  const ORDER = /^(last_day|first_day|inactive_days|column:\d)$/;
  const columns = $derived(columnsOf(address.get("columns")));
  let chosen = $state.raw<Schemas["PersonRow"][]>([]);
  /** The filters in the address, as the API takes them. */
  const download = $derived.by(() => {
    const kept = ["state", "profile_type", "audience", "definition", "search", "held_by"].flatMap((name) =>
      address.get(name) ? [[name, address.get(name)!]] : [],
    );
    const dates = Object.entries(workspace.dates).map(([name, value]) => [name, String(value)]);
    const asked = columns.length ? [["columns", JSON.stringify(columns)]] : [];
    return apiAddress(`/people.csv?${new URLSearchParams([...dates, ...kept, ...asked])}`);
  });
  /** Everybody found, as a definition can say it; what is searched for it cannot, nor who is held back. */
  const everybody = $derived.by(() => {
    if (address.get("search") || heldBy) return null;
    const written = address.get("definition");
    const state = address.get("state");
    const type = address.get("profile_type");
    return [
      ...(state ? [{ lifecycle: { is: [state as State], ...workspace.ruleSetCondition } }] : []),
      ...(type ? [{ profile_type: { is: [type as ProfileType] } }] : []),
      ...(audienceId ? [{ audience: { id: Number(audienceId) } }] : []),
      ...(written ? [JSON.parse(written) as Node] : []),
    ];
  });
  const people = new Live((signal) => {
    const query = {
      ...workspace.dates,
      compare: comparison.query,
      state: (address.get("state") ?? undefined) as State | undefined,
      profile_type: (address.get("profile_type") ?? undefined) as ProfileType | undefined,
      audience: audienceId ? Number(audienceId) : undefined,
      definition: address.get("definition") ?? undefined,
      search: address.get("search") ?? undefined,
      held_by: heldBy ? Number(heldBy) : undefined,
      order: ORDER.exec(address.get("order") ?? "")?.[0],
      columns: columns.length ? JSON.stringify(columns) : undefined,
      page: Number(address.get("page") ?? 1),
    };
    return answer(api.GET("/people", { params: { query }, signal }));
  });
  const audience = new Resource(async (signal) => {
    const id = audienceId;
    return id ? answer(api.GET("/audiences/{id}", { params: { path: { id: Number(id) } }, signal })) : null;
  });

  // Another term in the address, after going back or following a link, stands in the field, too.
  $effect(() => {
    const asked = address.get("search") ?? "";
    if (untrack(() => searching.trim()) !== asked) searching = asked;
  });

  onMount(() => {
    if (address.get("focus") === "search") field?.focus();
  });

  function put(next: Column[]) {
    const order = address.get("order")?.startsWith("column:") ? null : address.get("order");
    address.go(address.with({ columns: next.length ? JSON.stringify(next) : null, order, page: null }));
  }

  function search(text: string) {
    clearTimeout(timer);
    timer = setTimeout(
      () =>
        address.go(address.with({ search: text.trim() || null, page: null, focus: null }), { replace: true }),
      WAIT,
    );
  }
</script>

<div class="flex flex-wrap items-end gap-x-6 gap-y-2">
  <h1 class="mr-2">
    People{#if audience.data && audienceId}&nbsp;in <a href={address.to(`/audiences/${audienceId}`)}
        >{audience.data.name}</a
      >{/if}
  </h1>
  <label class="field small grow-0">
    <span class="sr-only">Search by identifier</span>
    <input
      type="search"
      class="w-72"
      placeholder="Find by identifier, e.g. customer:F0001"
      data-search
      bind:this={field}
      bind:value={searching}
      oninput={(event) => search(event.currentTarget.value)}
    />
  </label>
  <label class="small flex items-center gap-2">
    Sort by
    <select
      value={address.get("order") ?? "last_day"}
      onchange={(event) => address.go(address.with({ order: event.currentTarget.value, page: null }))}
    >
      <option value="last_day">Most recently active</option>
      <option value="first_day">Newest</option>
      <option value="inactive_days">Fewest days inactive</option>
      {#each columns as column, index (index)}<option value="column:{index}">{taken(column)}</option>{/each}
    </select>
  </label>
</div>
<div class="mt-3 flex flex-wrap gap-2" role="group" aria-label="State">
  <a
    class="quiet"
    aria-current={address.get("state") ? undefined : "true"}
    href={address.with({ state: null, page: null })}
  >
    All people
  </a>
  {#each STATES as state (state)}
    <a
      class="quiet"
      aria-current={address.get("state") === state ? "true" : undefined}
      href={address.with({ state, page: null })}><StateMark {state} /></a
    >
  {/each}
  <select
    class="small ml-4"
    aria-label="Profile type"
    value={address.get("profile_type") ?? ""}
    onchange={(event) =>
      address.go(address.with({ profile_type: event.currentTarget.value || null, page: null }))}
  >
    <option value="">All profile types</option>
    {#each PROFILE_TYPES as type (type)}<option value={type}>{type}s</option>{/each}
  </select>
</div>
<PeopleConditions />

{#if people.data && !people.problem}
  <p class="mt-4 mb-2" role="status" data-testid="people-total">
    {number(people.data.total)}
    {people.data.total === 1 ? "person" : "people"}
    {address.get("state") ? `${stateName(address.get("state")!)} ` : ""}{address.get("definition")
      ? "found "
      : ""}{#if heldBy}in <a href={address.to("/exports/standing", { standing: heldBy })}>a global holdout</a
      >&nbsp;{/if}as of {day(people.data.as_of)}{#if heldBy}
      <a class="small ml-3" href={address.with({ held_by: null, page: null })}>All people</a>{/if}
  </p>
  {#if people.data.total === 0}
    <p class="soft">No people match. Try another state, another date, or the beginning of an identifier.</p>
  {:else}
    <div class="small mb-1 flex min-h-8 flex-wrap items-center gap-x-4 gap-y-1">
      <PeopleColumns {columns} change={(next) => put(next)} />
      <a href={download} download>Download the list</a>
      {#if session.may("analyst")}
        {#if everybody?.length}<a href={audienceOf(everybody)}
            >Create audience from all {number(people.data.total)}</a
          >{/if}
        {#if chosen.length}<PickedPeople bind:chosen />{/if}
      {/if}
    </div>
    <PeopleTable
      rows={people.data.rows}
      compared={comparison.active}
      {columns}
      order={(order) => address.go(address.with({ order, page: null }))}
      choosing={session.may("analyst")}
      bind:chosen
    />
    <Pager total={people.data.total} perPage={people.data.per_page} name="people" />
  {/if}
{:else}
  <Waiting problem={people.problem} retry={() => people.reload()} />
  {#if people.problem && heldBy}
    <p class="mt-2"><a href={address.with({ held_by: null, page: null })}>Clear filters</a></p>
  {/if}
{/if}
