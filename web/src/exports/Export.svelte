<script lang="ts">
  import { apiAddress } from "../lib/base";
  import { onMount, untrack } from "svelte";
  import { address } from "../lib/address.svelte";
  import { answer, api, problemOf, type Problem, type Schemas } from "../lib/api/client";
  import Effect from "./Effect.svelte";
  import ExportCompared from "./ExportCompared.svelte";
  import ExportColumns from "./ExportColumns.svelte";
  import ExportSentence from "./ExportSentence.svelte";
  import FirstRows from "./FirstRows.svelte";
  import RunsTable from "./RunsTable.svelte";
  import StepPeople from "./StepPeople.svelte";
  import Waiting from "../ui/Waiting.svelte";
  import WouldBe from "./WouldBe.svelte";
  import { day, moment, number, plural } from "../lib/format";
  import {
    drafted,
    fresh,
    offered,
    outcomeOf,
    same,
    stepNamed,
    writtenOf,
    type Step,
    type Written,
  } from "./exports";
  import Conflict from "../ui/Conflict.svelte";
  import { saveError, theirsOf } from "../lib/conflict";
  import { focusResult } from "../lib/focus";
  import { rebased } from "../lib/rebased";
  import { sentence } from "../lib/sentence";
  import { polling } from "../lib/polling.svelte";
  import { Resource } from "../lib/resource.svelte";
  import { said } from "../lib/toasts.svelte";
  import { workspace } from "../lib/workspace.svelte";
  import { session } from "../lib/session.svelte";

  /** One export: its sentences, what would become of the audience today, the first rows, and the runs so far. */
  let { id }: { id: number | null } = $props();

  const WAIT = 250;
  type Parts = {
    audiences: Schemas["AudienceRow"][];
    lists: Schemas["ContactList"][];
    holdouts: Schemas["Holdout"][];
    destinations: Schemas["Destination"][];
  };
  type Basis = { settings: Written; updated_at: string };
  let parts = $state.raw<Parts | null>(null);
  let saved = $state.raw<Schemas["Export"] | null>(null);
  /** What the settings change: the export as it was saved when they were begun. */
  let basis = $state.raw<Basis | null>(null);
  let theirs = $state.raw<Schemas["Export"] | null>(null);
  let settings = $state<Written | null>(null);
  let runs = $state.raw<Schemas["Run"][]>([]);
  let failed = $state<Problem | null>(null);
  let problem = $state<Problem | null>(null);
  let working = $state(false);
  const writes = $derived(session.may("analyst"));
  const step = $derived(stepNamed(address.get("step")));
  const page = $derived(Number(address.get("page") ?? 1));
  const text = $derived(settings ? JSON.stringify(settings) : "");
  const changed = $derived(!basis || (settings !== null && !same(settings, basis.settings)));

  onMount(() => void load());
  polling(
    () => runs,
    () => look(),
  );

  // What is not saved yet stands in the address, so that it survives a reload.
  $effect(() => {
    void address.query; // going to another step leaves out what was only noted
    if (!settings) return;
    const draft = changed ? JSON.stringify({ ...settings, basis: basis?.updated_at }) : null;
    if (new URLSearchParams(location.search).get("export") !== draft) address.note({ export: draft });
  });

  async function load() {
    try {
      const [audiences, lists, holdouts, destinations] = await Promise.all([
        answer(api.GET("/audiences", { params: { query: workspace.dates } })),
        answer(api.GET("/contact-lists")),
        answer(api.GET("/holdouts")),
        answer(api.GET("/destinations")),
      ]);
      await look();
      parts = { ...audiences, ...lists, ...holdouts, ...destinations };
      settings = begun(parts.audiences);
    } catch (error) {
      failed = problemOf(error);
    }
  }

  function begun(audiences: Schemas["AudienceRow"][]): Written | null {
    const draft = address.noted("export");
    const kept = draft ? drafted(draft) : null;
    if (saved) basis = basisOf(saved);
    if (kept) {
      const { basis: time, ...written } = kept;
      if (saved && time && time !== saved.updated_at) theirs = saved;
      return written;
    }
    if (draft) said("The draft in this link could not be read and was ignored");
    if (saved) return writtenOf(saved);
    const wanted = Number(address.get("audience"));
    const audience = audiences.find((row) => row.id === wanted) ?? audiences[0];
    return audience ? fresh(audience, offered(workspace.catalogue)) : null;
  }

  const basisOf = (of: Schemas["Export"]): Basis => ({ settings: writtenOf(of), updated_at: of.updated_at });

  const read = () => answer(api.GET("/exports/{id}", { params: { path: { id: id! } } }));

  /** Reads the runs, and what someone else has saved where nothing is written here. */
  async function look() {
    if (id === null) return;
    const found = await read();
    saved = found;
    runs = found.runs;
    if (basis && !changed && basis.updated_at !== found.updated_at) adopt(found);
  }

  function adopt(one: Schemas["Export"]) {
    basis = basisOf(one);
    settings = writtenOf(one);
    theirs = null;
  }

  const trial = new Resource(async (signal) => {
    const written = text;
    if (!written || !writes) return null;
    await new Promise((resolve) => setTimeout(resolve, WAIT));
    if (signal.aborted) return null;
    const body = { ...JSON.parse(written), export: id, ...workspace.dates };
    return answer(api.POST("/exports/try", { body, signal }));
  });

  async function attempt(work: () => Promise<void>) {
    if (working) return;
    working = true;
    problem = null;
    try {
      await work();
    } catch (error) {
      if (!theirs) problem = problemOf(error);
    } finally {
      working = false;
    }
  }

  /** Keeps the export; a new one gets an address of its own. */
  async function keep(over: { updated_at: string } | null = basis): Promise<number> {
    const sent = $state.snapshot(settings!) as Written;
    const body = { ...sent, as_of: workspace.asOf };
    const one =
      id === null ? await answer(api.POST("/exports", { body })) : await put(body, over!.updated_at);
    const now = rebased(settings!, sent, writtenOf(one));
    adopt(one);
    saved = one;
    settings = now;
    return one.id;
  }

  async function put(body: Written & { as_of: string }, updated_at: string) {
    try {
      return await answer(
        api.PUT("/exports/{id}", { params: { path: { id: id! } }, body: { ...body, updated_at } }),
      );
    } catch (error) {
      theirs = await theirsOf(error, { updated_at }, read).catch(() => null);
      throw saveError(error, "export");
    }
  }

  function restore() {
    return attempt(async () => {
      const row = await answer(api.POST("/exports/{id}/restore", { params: { path: { id: id! } } }));
      await keep(row);
      said("Export saved");
    });
  }

  function save(over = basis as { updated_at: string } | null) {
    return attempt(async () => {
      const kept = await keep(over);
      said("The export has been saved");
      if (id === null) goTo(kept);
    });
  }

  /** To the address of its own; what was written while it was saved goes along. */
  function goTo(one: number) {
    const draft = changed ? JSON.stringify({ ...settings, basis: basis?.updated_at }) : null;
    address.go(address.with({ export: draft }, `/exports/${one}`), { replace: true });
  }

  function start() {
    return attempt(async () => {
      const kept = changed ? await keep() : id!;
      await answer(api.POST("/exports/{id}/runs", { params: { path: { id: kept } }, body: workspace.dates }));
      if (id === null) goTo(kept);
      else await look();
      awaited = runs[0]?.id ?? null;
    });
  }

  /** The run that was started here, until its file is there. */
  let awaited = $state<number | null>(null);
  let startButton = $state<HTMLElement>();
  let download = $state<HTMLElement>();
  $effect(() => {
    if (awaited === null || !download || runs[0]?.id !== awaited) return;
    awaited = null;
    focusResult(startButton, download);
  });

  const open = (one: Step | null) => address.go(address.with({ step: one, page: null }));

  function loadPeople(one: Step, signal: AbortSignal) {
    const body = { ...JSON.parse(untrack(() => text)), export: id, step: one, page, ...workspace.dates };
    return answer(api.POST("/exports/try/people", { body, signal }));
  }

  const told = $derived.by(() => {
    const people = trial.data?.people;
    if (!people) return "";
    if (people.entered === undefined) return plural(people.exported, "person", "people");
    return `${number(people.entered)} who entered and ${number(people.left ?? 0)} who left`;
  });
</script>

<p class="soft small"><a href={address.to("/exports")}>Exports</a> /</p>
{#if settings && parts}
  <div class="flex flex-wrap items-start gap-4">
    <h1 class="sr-only">{settings.name || "New export"}</h1>
    <input
      class="min-w-64 grow border-0! border-b! border-b-(--rule-strong)! bg-transparent! px-0! font-serif text-[1.5rem] font-semibold"
      aria-label="Name of the export"
      maxlength="255"
      readonly={!writes}
      bind:value={settings.name}
    />
    {#if writes}
      <button class="quiet" disabled={!changed || working} onclick={() => save()}>Save</button>
      <button
        class="act"
        disabled={working || !trial.data || trial.problem !== null}
        onclick={start}
        bind:this={startButton}>{changed ? "Save and export" : "Export"} {told}</button
      >
    {/if}
  </div>
  <p class="soft small mt-1">
    as of {day(workspace.asOf)}{saved?.next_run_at && !changed
      ? `; next run on ${moment(saved.next_run_at, workspace.info!.time_zone)}`
      : ""}{changed ? "; unsaved draft" : ""}{#if runs[0]}; last run: <a
        href={address.to(`/exports/runs/${runs[0].id}`)}
        aria-live="polite">{outcomeOf(runs[0])}</a
      >{#if writes && runs[0].file_name && !runs[0].file_removed_because},
        <a href={apiAddress(`/runs/${runs[0].id}/file`)} download bind:this={download}>download the file</a
        >{/if}{/if}
  </p>
  {#if problem}<Waiting {problem} {restore} />{/if}
  {#if theirs}
    {@const other = theirs}
    <Conflict what="export" busy={working} keep={() => save(other)} adopt={() => adopt(other)}>
      {#snippet there()}<ExportCompared written={writtenOf(other)} {...parts!} />{/snippet}
      {#snippet here()}{#key text}<ExportCompared written={settings!} {...parts!} />{/key}{/snippet}
    </Conflict>
  {/if}
  <div class="mt-3 grid grid-cols-1 gap-x-8 gap-y-6 lg:grid-cols-[minmax(0,5fr)_minmax(0,6fr)]">
    <div inert={!writes} {@attach sentence}><ExportSentence bind:settings {...parts} /></div>
    <section aria-label="What would be exported">
      {#if !writes}
        <p class="soft">Only analysts and administrators can edit this export and preview it.</p>
      {:else if trial.data && !trial.problem}
        <WouldBe
          {...trial.data}
          {settings}
          loading={trial.loading}
          holdout={parts.holdouts.find(({ id }) => id === settings?.rules.holdout) ?? null}
          opened={step}
          {open}
        />
      {:else}
        <Waiting problem={trial.problem} retry={() => trial.reload()} />
      {/if}
    </section>
  </div>
  {#if step && trial.data && !trial.problem}
    {#key step + page + text}
      <StepPeople {step} channel={settings.rules.channel} load={loadPeople} close={() => open(null)} />
    {/key}
  {/if}

  {#if writes}
    <h2 class="mt-8">Columns and preview</h2>
    <ExportColumns bind:columns={settings.rules.columns} channel={settings.rules.channel} />
  {/if}
  {#if trial.data && !trial.problem}
    <FirstRows columns={trial.data.columns} rows={trial.data.rows} />
  {/if}

  {#if id !== null}
    <h2 class="mt-8">Runs</h2>
    {#if runs.length}<RunsTable {runs} changed={look} />{:else}<p class="soft">No runs yet.</p>{/if}
    {#if runs.some(({ state, people }) => state === "done" && people?.holdout)}
      <Effect of={{ export: id }} />
    {/if}
  {/if}
{:else if parts && !failed}
  <p class="says mt-4">No audiences yet.</p>
  <p class="mt-2"><a class="act" href={address.to("/audiences/new")}>New audience</a></p>
{:else}
  <Waiting problem={failed} retry={() => void load()} />
{/if}
