<script lang="ts">
  import { onMount, untrack } from "svelte";
  import { address } from "../lib/address.svelte";
  import { answer, api, problemOf, Refusal, type Problem, type Schemas } from "../lib/api/client";
  import Conflict from "../lib/components/Conflict.svelte";
  import Evidence from "../lib/components/Evidence.svelte";
  import OverTime from "../lib/components/OverTime.svelte";
  import PinButton from "../lib/components/PinButton.svelte";
  import Sample from "../lib/components/Sample.svelte";
  import Versions from "../lib/components/Versions.svelte";
  import Waiting from "../lib/components/Waiting.svelte";
  import type { Definition } from "../lib/definition";
  import { added, rooted } from "../lib/editing";
  import AddClause from "../lib/editor/AddClause.svelte";
  import AsJson from "../lib/editor/AsJson.svelte";
  import SentenceLine from "../lib/editor/SentenceLine.svelte";
  import { day, number, percent } from "../lib/format";
  import { Steps } from "../lib/history";
  import { author } from "../lib/author.svelte";
  import { said } from "../lib/toasts.svelte";
  import { workspace } from "../lib/workspace.svelte";

  /**
   * An audience as a sentence. What is not saved yet is in the address, so it survives a reload; a definition too long
   * for an address is kept by the browser.
   */
  let { id }: { id: number | null } = $props();

  const WAIT = 80;
  // What costs more than the size is asked for once the sentence rests.
  const REST = 700;

  // Servers take no longer addresses than this, written in the address's own way.
  const LONGEST = 4000;
  const KEPT = `estrel-draft-${untrack(() => id) ?? "new"}`;

  let kept = $state.raw<Schemas["Audience"] | null>(null);
  let definition = $state.raw<Definition>({ all: [] });
  let name = $state("");
  let folder = $state("");
  let note = $state("");
  let ready = $state(false);
  let saving = $state(false);
  let problem = $state<Problem | null>(null);
  let theirs = $state.raw<Schemas["Audience"] | null>(null);
  let preview = $state.raw<Schemas["Preview"] | null>(null);
  let settled = $state.raw<Definition | null>(null);
  let stale = $state(false);
  let fault = $state<Problem | null>(null);
  let running: AbortController | null = null;
  let timer: ReturnType<typeof setTimeout>;
  let resting: ReturnType<typeof setTimeout>;
  const steps = new Steps<Definition>();
  let undoable = $state(false);
  let redoable = $state(false);

  const text = $derived(JSON.stringify(definition));
  const dirty = $derived(
    kept
      ? name !== kept.name ||
          folder !== kept.folder ||
          note !== kept.note ||
          text !== JSON.stringify(rooted(kept.definition))
      : name !== "" || definition.all.length > 0,
  );

  onMount(async () => {
    try {
      if (id !== null) take(await answer(api.GET("/audiences/{id}", { params: { path: { id } } })));
      const draft = address.get("definition") ?? sessionStorage.getItem(KEPT);
      if (draft) definition = rooted(JSON.parse(draft));
      name = address.get("name") ?? name;
      folder = address.get("folder") ?? folder;
      note = address.get("note") ?? note;
      ready = true;
    } catch (error) {
      problem = problemOf(error);
    }
  });

  function take(audience: Schemas["Audience"]) {
    kept = audience;
    ({ name, folder, note } = audience);
    definition = rooted(audience.definition);
  }

  // The live answer: asked again a moment after every change; the newest question wins.
  $effect(() => {
    const asked = { definition: definition as Record<string, unknown>, ...workspace.dates };
    void workspace.policies;
    if (!ready) return;
    clearTimeout(timer);
    stale = true;
    timer = setTimeout(() => void ask(asked), WAIT);
  });

  $effect(() => {
    if (!ready) return;
    const long = text.length > LONGEST;
    if (dirty && long) sessionStorage.setItem(KEPT, text);
    else sessionStorage.removeItem(KEPT);
    const unsaved = (here: string, there: string | undefined) =>
      dirty && here !== (there ?? "") ? here : null;
    const wanted = {
      definition: dirty && !long ? text : null,
      name: dirty ? name || null : null,
      folder: unsaved(folder, kept?.folder),
      note: unsaved(note, kept?.note),
    };
    if (Object.entries(wanted).some(([key, value]) => address.get(key) !== value)) address.note(wanted);
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
      clearTimeout(resting);
      resting = setTimeout(() => (settled = found.definition as Definition), settled ? REST : 0);
    } catch (error) {
      if (!mine.signal.aborted) fault = problemOf(error);
    }
  }

  function change(next: Definition) {
    steps.note(definition);
    show(next);
  }

  function show(next: Definition) {
    definition = next;
    undoable = steps.undoable;
    redoable = steps.redoable;
  }

  async function save(over = false) {
    if (saving) return;
    saving = true;
    const body = {
      name,
      folder,
      note,
      author: author.name,
      definition: definition as Record<string, unknown>,
    };
    try {
      if (id === null) {
        const created = await answer(api.POST("/audiences", { body }));
        said(`“${created.name}” has been saved`);
        address.go(address.to(`/audiences/${created.id}`), { replace: true });
        return;
      }
      const { updated_at } = over ? theirs! : kept!;
      take(
        await answer(api.PUT("/audiences/{id}", { params: { path: { id } }, body: { ...body, updated_at } })),
      );
      problem = theirs = null;
      said(`“${name}” has been saved as version ${kept!.version}`);
    } catch (error) {
      if (id !== null && error instanceof Refusal && error.problem.status === 409) {
        theirs = await answer(api.GET("/audiences/{id}", { params: { path: { id } } }));
      } else problem = problemOf(error);
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
    steps.note(definition);
    take(kept);
    show(definition);
  }

  function keyed(event: KeyboardEvent) {
    if (!event.ctrlKey && !event.metaKey) return;
    const key = event.key.toLowerCase();
    const writing = event.target instanceof HTMLElement && /^(INPUT|TEXTAREA)$/.test(event.target.tagName);
    if (key === "s") void save();
    else if (writing) return;
    else if (key === "z" && !event.shiftKey) show(steps.undo(definition));
    else if (key === "y" || key === "z") show(steps.redo(definition));
    else return;
    event.preventDefault();
  }
</script>

<svelte:window
  onkeydowncapture={(event) => event.key.length > 1 && steps.part()}
  onpointerdowncapture={() => steps.part()}
  onkeydown={keyed}
/>

{#if !ready}
  <Waiting {problem} />
{:else}
  <h1 class="sr-only">Audience {name}</h1>
  <p class="soft small"><a href={address.to("/audiences")}>Audiences</a> / {folder}</p>
  <div class="flex flex-wrap items-center gap-x-2 gap-y-1">
    <input
      class="min-w-64 flex-1 border-0! border-b! border-(--rule-strong)! bg-transparent! px-0! font-serif text-[1.5rem]! font-semibold"
      aria-label="Name of the audience"
      placeholder="Name this audience"
      maxlength="255"
      bind:value={name}
    />
    <button
      class="act"
      onclick={() => save()}
      disabled={saving || !dirty || name.trim() === "" || fault !== null}>Save</button
    >
    {#if kept}
      {#if dirty}<button class="quiet" onclick={revert}>Undo changes</button>{/if}
      <PinButton id={kept.id} name={kept.name} />
      <a class="quiet" href={address.to("/audiences/new", { definition: text, name: `${name} (copy)` })}
        >Duplicate</a
      >
      <a class="quiet" href={address.to("/exports", { audience: String(kept.id) })}>Hand over</a>
      <button class="quiet" onclick={remove}>Delete</button>
    {/if}
  </div>
  <div class="soft small mt-1 flex min-h-6 flex-wrap items-baseline gap-x-4">
    <span>
      {#if dirty}not saved yet; the draft survives a reload{:else if kept}version {kept.version}{/if}
      {#if name.trim() === "" && definition.all.length}· give it a name to save it{/if}
    </span>
    <details class="relative">
      <summary class="cursor-pointer">folder and note</summary>
      <div class="panel absolute z-20 mt-1 flex w-80 flex-col gap-2">
        <label class="field">Folder <input maxlength="100" bind:value={folder} /></label>
        <label class="field">Note <textarea rows="3" maxlength="2000" bind:value={note}></textarea></label>
        <label class="field"
          >Your name, told with the versions you save
          <input
            maxlength="100"
            value={author.name}
            oninput={(event) => author.set(event.currentTarget.value)}
          /></label
        >
      </div>
    </details>
    {#if note}<span class="max-w-prose truncate" title={note}>{note}</span>{/if}
    <span class="ml-auto flex gap-2">
      <button
        class="cursor-pointer disabled:opacity-40"
        disabled={!undoable}
        title="Ctrl Z"
        onclick={() => show(steps.undo(definition))}>↶ undo</button
      >
      <button
        class="cursor-pointer disabled:opacity-40"
        disabled={!redoable}
        title="Ctrl Shift Z"
        onclick={() => show(steps.redo(definition))}>redo ↷</button
      >
    </span>
  </div>
  {#if problem}<Waiting {problem} />{/if}
  {#if theirs}
    <Conflict
      mine={preview?.sentence ?? ""}
      {theirs}
      keep={() => save(true)}
      adopt={() => {
        steps.note(definition);
        take(theirs!);
        show(definition);
        theirs = null;
      }}
    />
  {/if}

  <div class="mt-4 flex flex-wrap items-baseline gap-x-4">
    <p class="says">
      <span class="text-[2rem] font-semibold tabular-nums" data-testid="size" data-stale={stale}>
        {preview ? number(preview.size) : "…"}
      </span>
      {preview?.size === 1 ? "person" : "people"}
    </p>
    {#if preview}
      <p class="soft">
        {percent(preview.share)} of the {number(preview.base)} seen by {day(
          preview.as_of,
        )}{#if preview.known_on}, as known on {day(preview.known_on)}{/if}
      </p>
      {#if kept && !dirty}
        <p><a href={address.to("/people", { audience: String(kept.id) })}>see all of them</a></p>
      {:else if preview.size && preview.size < preview.base}
        <p><a href={address.to("/people", { definition: text })}>see all of them</a></p>
      {/if}
    {/if}
  </div>
  {#if preview}<Evidence {preview} {id} />{/if}

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
  <p class="says mt-3 ml-9 max-w-none!">
    <AddClause
      word={definition.all.length ? "and" : "People"}
      add={(node) => change(added(definition, "all", node))}
    />
    {#if definition.all.length === 0}<span class="soft">– so far everybody.</span>{/if}
  </p>
  {#if fault}<Waiting problem={fault} />{/if}
  <AsJson {definition} {change} {name} />

  {#if settled && definition.all.length}
    <Sample definition={settled} />
    <OverTime definition={settled} {id} />
  {/if}
  {#if kept}
    <Versions
      audience={kept}
      restored={(audience) => {
        take(audience);
        said(`The earlier version is version ${audience.version} now`);
      }}
    />
  {/if}
{/if}
