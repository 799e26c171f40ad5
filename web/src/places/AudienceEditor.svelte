<script lang="ts">
  import { onMount } from "svelte";
  import { address } from "../lib/address.svelte";
  import { answer, api, problemOf, type Problem, type Schemas } from "../lib/api/client";
  import PeopleTable from "../lib/components/PeopleTable.svelte";
  import StateMix from "../lib/components/StateMix.svelte";
  import Trend from "../lib/components/Trend.svelte";
  import Versions from "../lib/components/Versions.svelte";
  import Waiting from "../lib/components/Waiting.svelte";
  import { added, rooted, type Definition } from "../lib/definition";
  import AddClause from "../lib/editor/AddClause.svelte";
  import AsJson from "../lib/editor/AsJson.svelte";
  import SentenceLine from "../lib/editor/SentenceLine.svelte";
  import { day, number, percent } from "../lib/format";
  import { said } from "../lib/toasts.svelte";
  import { workspace } from "../lib/workspace.svelte";

  /** An audience as a sentence. What is not saved yet is in the address, so it survives a reload. */
  let { id }: { id: number | null } = $props();

  const WAIT = 80;

  let kept = $state.raw<Schemas["Audience"] | null>(null);
  let definition = $state.raw<Definition>({ all: [] });
  let name = $state("");
  let ready = $state(false);
  let saving = $state(false);
  let problem = $state<Problem | null>(null);
  let preview = $state.raw<Schemas["Preview"] | null>(null);
  let stale = $state(false);
  let fault = $state<Problem | null>(null);
  let running: AbortController | null = null;
  let timer: ReturnType<typeof setTimeout>;

  const text = $derived(JSON.stringify(definition));
  const dirty = $derived(
    kept
      ? name !== kept.name || text !== JSON.stringify(rooted(kept.definition))
      : name !== "" || definition.all.length > 0,
  );

  onMount(async () => {
    try {
      if (id !== null) kept = await answer(api.GET("/audiences/{id}", { params: { path: { id } } }));
      const draft = address.get("definition");
      definition = draft ? rooted(JSON.parse(draft)) : kept ? rooted(kept.definition) : { all: [] };
      name = address.get("name") ?? kept?.name ?? "";
      ready = true;
    } catch (error) {
      problem = problemOf(error);
    }
  });

  // The live answer: asked again a moment after every change; the newest question wins.
  $effect(() => {
    const asked = { definition: definition as Record<string, unknown>, as_of: workspace.asOf };
    void workspace.policy;
    if (!ready) return;
    clearTimeout(timer);
    stale = true;
    timer = setTimeout(() => void ask(asked), WAIT);
  });

  $effect(() => {
    if (!ready) return;
    const wanted = { definition: dirty ? text : null, name: dirty ? name : null };
    if (address.get("definition") !== wanted.definition || address.get("name") !== (wanted.name || null)) {
      history.replaceState(null, "", address.with(wanted));
    }
  });

  async function ask(body: { definition: Record<string, unknown>; as_of: string }) {
    running?.abort();
    const mine = new AbortController();
    running = mine;
    try {
      const found = await answer(api.POST("/audiences/preview", { body, signal: mine.signal }));
      if (mine.signal.aborted) return;
      preview = found;
      fault = null;
      stale = false;
    } catch (error) {
      if (!mine.signal.aborted) fault = problemOf(error);
    }
  }

  function change(next: Definition) {
    definition = next;
  }

  async function save() {
    if (saving) return;
    saving = true;
    const body = { name, definition: definition as Record<string, unknown> };
    try {
      if (id === null) {
        const created = await answer(api.POST("/audiences", { body }));
        said(`“${created.name}” has been saved`);
        address.go(address.to(`/audiences/${created.id}`), { replace: true });
        return;
      }
      kept = await answer(api.PUT("/audiences/{id}", { params: { path: { id } }, body }));
      name = kept.name;
      definition = rooted(kept.definition);
      problem = null;
      said(`“${kept.name}” has been saved as version ${kept.version}`);
    } catch (error) {
      problem = problemOf(error);
    } finally {
      saving = false;
    }
  }

  async function remove() {
    const params = { path: { id: id! } };
    try {
      const gone = await answer(api.DELETE("/audiences/{id}", { params }));
      address.go(address.to("/audiences"));
      said(`“${gone.name}” has been deleted`, async () => {
        await answer(api.POST("/audiences/{id}/restore", { params }));
        address.go(address.to(`/audiences/${gone.id}`));
      });
    } catch (error) {
      problem = problemOf(error);
    }
  }

  function revert() {
    if (!kept) return;
    name = kept.name;
    definition = rooted(kept.definition);
  }
</script>

<svelte:window
  onkeydown={(event) => {
    if ((event.ctrlKey || event.metaKey) && event.key === "s") {
      event.preventDefault();
      void save();
    }
  }}
/>

{#if !ready}
  <Waiting {problem} />
{:else}
  <h1 class="sr-only">Audience {name}</h1>
  <p class="soft small"><a href={address.to("/audiences")}>Audiences</a> /</p>
  <div class="flex flex-wrap items-center gap-3">
    <input
      class="flex-1 border-0! border-b! border-(--rule-strong)! bg-transparent! px-0! font-serif text-[1.5rem]! font-semibold"
      aria-label="Name of the audience"
      placeholder="Name this audience"
      maxlength="255"
      bind:value={name}
    />
    <button class="act" onclick={save} disabled={saving || !dirty || name.trim() === "" || fault !== null}
      >Save</button
    >
    {#if kept}
      {#if dirty}<button class="quiet" onclick={revert}>Undo changes</button>{/if}
      <a class="quiet" href={address.to("/audiences/new", { definition: text, name: `${name} (copy)` })}
        >Duplicate</a
      >
      <a class="quiet" href={address.to("/exports", { audience: String(kept.id) })}>Hand over</a>
      <button class="quiet" onclick={remove}>Delete</button>
    {/if}
  </div>
  <p class="soft small mt-1 min-h-5">
    {#if dirty}not saved yet; this page's address keeps the draft{:else if kept}version {kept.version}{/if}
    {#if name.trim() === "" && definition.all.length}· give it a name to save it{/if}
  </p>
  {#if problem}<Waiting {problem} />{/if}

  <div class="mt-4 flex flex-wrap items-baseline gap-x-4">
    <p class="says">
      <span class="text-[2rem] font-semibold tabular-nums" data-testid="size" data-stale={stale}>
        {preview ? number(preview.size) : "…"}
      </span>
      {preview?.size === 1 ? "person" : "people"}
    </p>
    {#if preview}
      <p class="soft">{percent(preview.share)} of the {number(preview.base)} seen by {day(preview.as_of)}</p>
      {#if kept && !dirty}
        <p><a href={address.to("/people", { audience: String(kept.id) })}>see all of them</a></p>
      {/if}
    {/if}
  </div>

  {#if preview}
    {@const twins = preview.same_as.filter((row) => row.id !== id)}
    <StateMix states={preview.states} />
    {#if !fault}<Trend definition={preview.definition} />{/if}
    {#if preview.undecided}
      <p class="soft">
        {number(preview.undecided)} more are undecided: the time to wait has not passed for them.
      </p>
    {/if}
    {#if twins.length}
      <p class="soft">
        Says the same as
        {#each twins as twin (twin.id)}<a class="mr-2" href={address.to(`/audiences/${twin.id}`)}
            >{twin.name}</a
          >{/each}
      </p>
    {/if}
  {/if}

  <ol class="mt-3 flex flex-col gap-3" aria-label="The sentence">
    {#each preview?.lines ?? [] as line, index (line.place)}
      <SentenceLine
        {line}
        {definition}
        {change}
        base={preview!.base}
        word={index === 0 ? "People" : "and"}
        {index}
      />
    {/each}
  </ol>
  <p class="says mt-3 ml-8 max-w-none!">
    <AddClause
      word={definition.all.length ? "and" : "People"}
      add={(node) => change(added(definition, "all", node))}
    />
    {#if definition.all.length === 0}<span class="soft">– so far everybody.</span>{/if}
  </p>
  {#if fault}<Waiting problem={fault} />{/if}
  <AsJson {definition} {change} {name} />

  {#if preview?.sample.length}
    <h2 class="mt-10 mb-1">A few of them</h2>
    <PeopleTable rows={preview.sample} />
  {:else if preview}
    <p class="soft mt-8">Nobody fits. The count beside each clause shows which one leaves nobody.</p>
  {/if}
  {#if kept}
    <Versions
      audience={kept}
      restored={(audience) => {
        kept = audience;
        definition = rooted(audience.definition);
        said(`The earlier version is version ${audience.version} now`);
      }}
    />
  {/if}
{/if}
