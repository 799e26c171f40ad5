<script lang="ts">
  import { onMount, untrack } from "svelte";
  import { address } from "../lib/address.svelte";
  import { conditionAt } from "../lib/places";
  import { tellFaulty } from "./editor/faulty";
  import { answer, api, problemOf, type Problem, type Schemas } from "../lib/api/client";
  import Conflict from "../ui/Conflict.svelte";
  import Evidence from "./Evidence.svelte";
  import Filing from "./Filing.svelte";
  import OverTime from "./OverTime.svelte";
  import AudienceActions from "./AudienceActions.svelte";
  import Sample from "./Sample.svelte";
  import SizeLine from "./SizeLine.svelte";
  import Versions from "./Versions.svelte";
  import Waiting from "../ui/Waiting.svelte";
  import type { Definition } from "./definition";
  import { rooted } from "./editor/editing";
  import AsJson from "./editor/AsJson.svelte";
  import Sentence from "./editor/Sentence.svelte";
  import { Draft, type Written } from "./draft";
  import { Steps } from "./history.svelte";
  import { LivePreview } from "./livePreview.svelte";
  import { saveError, theirsOf } from "../lib/conflict";
  import { rebased } from "../lib/rebased";
  import { said } from "../lib/toasts.svelte";

  /** An audience as a sentence: written, looked at, saved. What is not saved yet survives a reload. */
  let { id }: { id: number | null } = $props();

  const draft = new Draft(untrack(() => id));
  let kept = $state.raw<Schemas["Audience"] | null>(null);
  let definition = $state.raw<Definition>({ all: [] });
  let name = $state("");
  let folder = $state("");
  let note = $state("");
  let ready = $state(false);
  let saving = $state(false);
  let problem = $state<Problem | null>(null);
  let theirs = $state.raw<Schemas["Audience"] | null>(null);
  /** The name and what else is filed are part of the steps that change them along with the definition. */
  type Step = { definition: Definition } & Partial<Written>;
  const steps = new Steps<Step>();
  const live = new LivePreview(() => (ready ? definition : null));
  tellFaulty(() => (live.fault?.errors ?? []).map((error) => conditionAt(error.place)));
  const preview = $derived(live.answer);

  const text = $derived(JSON.stringify(definition));
  const dirty = $derived(
    kept
      ? name !== kept.name ||
          folder !== kept.folder ||
          note !== kept.note ||
          text !== JSON.stringify(rooted(kept.definition))
      : name !== "" || definition.all.length > 0,
  );

  onMount(() => void begin());

  async function begin() {
    problem = null;
    try {
      if (id !== null) take(await load());
      const found = draft.read({ name, folder, note });
      ({ name, folder, note } = found);
      if (found.definition) definition = rooted(found.definition);
      if (kept && found.basis && found.basis !== kept.updated_at) theirs = kept;
      ready = true;
    } catch (error) {
      problem = problemOf(error);
    }
  }

  const load = () => answer(api.GET("/audiences/{id}", { params: { path: { id: id! } } }));

  function take(audience: Schemas["Audience"]) {
    kept = audience;
    ({ name, folder, note } = audience);
    definition = rooted(audience.definition);
  }

  $effect(() => {
    if (!ready) return;
    if (dirty) draft.keep({ name, folder, note }, kept, text, theirs ? undefined : kept?.updated_at);
    else draft.forget();
  });

  function change(next: Definition) {
    steps.note({ definition });
    definition = next;
  }

  function undo() {
    goTo(steps.undo(here));
  }

  function redo() {
    goTo(steps.redo(here));
  }

  const here = (found: Step): Step => ("name" in found ? written() : { definition });

  function goTo(step: Step | null) {
    if (step) ({ name, folder, note, definition } = { ...written(), ...step });
  }

  /** Replaces everything that is written by what was saved, as one step. */
  function replaceBy(audience: Schemas["Audience"]) {
    steps.part();
    steps.note(written());
    steps.part();
    take(audience);
  }

  /** Takes what was saved, and keeps what was written while it was being saved. */
  function takeSaved(audience: Schemas["Audience"], sent: ReturnType<typeof written>) {
    const now = rebased(written(), sent, { ...audience, definition: rooted(audience.definition) });
    take(audience);
    ({ name, folder, note, definition } = now);
  }

  const written = () => ({ name, folder, note, definition });

  async function save(over: { updated_at: string } | null = kept) {
    if (saving || !ready) return;
    saving = true;
    const sent = written();
    const body = { ...sent, definition: definition as Record<string, unknown> };
    try {
      if (id === null) {
        const created = await answer(api.POST("/audiences", { body }));
        said(`“${created.name}” has been saved`);
        takeSaved(created, sent);
        address.go(address.to(`/audiences/${created.id}`), { replace: true });
        if (dirty) new Draft(created.id).keep({ name, folder, note }, created, text);
        return;
      }
      const { updated_at } = over!;
      takeSaved(
        await answer(api.PUT("/audiences/{id}", { params: paramsHere(), body: { ...body, updated_at } })),
        sent,
      );
      problem = theirs = null;
      said(`“${kept!.name}” has been saved as version ${kept!.version}`);
    } catch (error) {
      theirs = kept && (await theirsOf(error, kept, load).catch(() => null));
      if (!theirs) problem = problemOf(saveError(error, "audience"));
    } finally {
      saving = false;
    }
  }

  const paramsHere = () => ({ path: { id: id! } });

  async function restore() {
    try {
      await save(await answer(api.POST("/audiences/{id}/restore", { params: paramsHere() })));
    } catch (error) {
      problem = problemOf(error);
    }
  }

  async function remove() {
    const params = paramsHere();
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
    if (kept) replaceBy(kept);
  }

  function keyed(event: KeyboardEvent) {
    if (!event.ctrlKey && !event.metaKey) return;
    const key = event.key.toLowerCase();
    const writing = event.target instanceof HTMLElement && /^(INPUT|TEXTAREA)$/.test(event.target.tagName);
    if (key === "s") void save();
    else if (writing) return;
    else if (key === "z" && !event.shiftKey) undo();
    else if (key === "y" || key === "z") redo();
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
  <Waiting {problem} retry={() => void begin()} />
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
    <AudienceActions
      {kept}
      {dirty}
      ready={!saving && dirty && name.trim() !== "" && live.fault === null}
      copy={address.to("/audiences/new", { definition: text, name: `${name} (copy)` })}
      save={() => save()}
      {revert}
      {remove}
    />
  </div>
  <div class="soft small mt-1 flex min-h-6 flex-wrap items-baseline gap-x-4">
    <span>
      {#if dirty}Unsaved draft{:else if kept}version {kept.version}{/if}
      {#if name.trim() === "" && definition.all.length}· add a name to save it{/if}
    </span>
    <Filing bind:folder bind:note />
    <span class="ml-auto flex gap-2">
      <button
        class="cursor-pointer disabled:opacity-40"
        disabled={!steps.undoable}
        title="Ctrl Z"
        onclick={undo}>↶ undo</button
      >
      <button
        class="cursor-pointer disabled:opacity-40"
        disabled={!steps.redoable}
        title="Ctrl Shift Z"
        onclick={redo}>redo ↷</button
      >
    </span>
  </div>
  {#if problem}<Waiting {problem} {restore} />{/if}
  {#if theirs}
    {@const saved = theirs}
    <Conflict
      what="audience"
      busy={saving}
      keep={() => save(saved)}
      adopt={() => {
        replaceBy(saved);
        theirs = null;
      }}
    >
      {#snippet there()}
        <p>{saved.name}, version {saved.version}</p>
        <p class="font-serif">{saved.sentence}</p>
      {/snippet}
      {#snippet here()}
        <p>{name}</p>
        <p class="font-serif">{preview?.sentence ?? ""}</p>
      {/snippet}
    </Conflict>
  {/if}

  <SizeLine
    preview={live.fault ? null : preview}
    stale={live.stale}
    people={kept && !dirty ? { audience: String(kept.id) } : { definition: text }}
  />
  {#if preview}<div class={live.fault ? "invisible" : ""}><Evidence {preview} {id} /></div>{/if}

  <!-- Not before what stands above it, which would move it. -->
  {#if preview || live.fault}
    <Sentence {preview} {definition} {change} />
    {#if live.fault}<Waiting problem={live.fault} />{/if}
    <AsJson {definition} {change} {name} />
  {/if}

  {#if live.settled && definition.all.length}
    <div class={live.fault ? "invisible" : ""}>
      <Sample definition={live.settled} />
      <OverTime definition={live.settled} {id} />
    </div>
  {/if}
  {#if kept}
    <Versions
      audience={kept}
      restored={(audience) => {
        take(audience);
        said(`Restored as version ${audience.version}`);
      }}
    />
  {/if}
{/if}
