<script lang="ts">
  import { address } from "../lib/address.svelte";
  import { answer, api, problemOf, type Problem, type Schemas } from "../lib/api/client";
  import { moment } from "../lib/format";
  import { Resource } from "../lib/resource.svelte";
  import { session } from "../lib/session.svelte";
  import { said } from "../lib/toasts.svelte";
  import { workspace } from "../lib/workspace.svelte";
  import SavedForm, { type SavedFields } from "./SavedForm.svelte";
  import { asked, asks, linkTo, moves, OPEN } from "./saved";

  /** Keeps the question on screen under a name; of one that is open says which it is, keeps changes, and shows its versions. */
  let { analysis }: { analysis: string } = $props();

  type Detail = Schemas["SavedAnalysisDetail"];
  const id = $derived(Number(address.get(OPEN)) || null);
  const open = new Resource<Detail | null>(async (signal) =>
    id ? answer(api.GET("/saved-analyses/{id}", { params: { path: { id } }, signal })) : null,
  );
  let writing = $state(false);
  let showing = $state(false);
  let refused = $state<Problem | null>(null);
  let busy = $state(false);

  const saved = $derived(open.data && open.data.id === id ? open.data : null);
  const changed = $derived(
    saved !== null &&
      JSON.stringify(sorted(asked(moves(saved.question)))) !== JSON.stringify(sorted(saved.question)),
  );

  function sorted(question: Record<string, string>) {
    return Object.entries(question).sort(([one], [other]) => one.localeCompare(other));
  }

  const close = () => (writing = false);

  function begin() {
    refused = null;
    writing = true;
  }

  /** Resolves to whether it went well. */
  async function attempt(work: () => Promise<void>): Promise<boolean> {
    if (busy) return false;
    busy = true;
    refused = null;
    try {
      await work();
      close();
    } catch (error) {
      refused = problemOf(error);
    }
    busy = false;
    return refused === null;
  }

  const add = (form: SavedFields) =>
    attempt(async () => {
      const { moving, ...rest } = form;
      const question = { question: asked(moving), asks: asks(analysis, moving) };
      const body = { ...rest, name: rest.name.trim(), analysis, ...question };
      const made = await answer(api.POST("/saved-analyses", { body }));
      address.go(address.with({ [OPEN]: String(made.id) }), { replace: true });
      said(`“${made.name}” saved`);
    });

  const change = (form: SavedFields | null = null) =>
    attempt(async () => {
      const { moving, ...rest } = form ?? { moving: moves(saved!.question) };
      const body = {
        ...rest,
        analysis,
        question: asked(moving),
        asks: asks(analysis, moving),
        updated_at: saved!.updated_at,
      };
      const made = await answer(
        api.PUT("/saved-analyses/{id}", { params: { path: { id: saved!.id } }, body }),
      );
      await open.reload();
      said(`“${made.name}” saved as version ${made.version}`);
    });

  const remove = () =>
    attempt(async () => {
      const { id: gone, name } = saved!;
      await answer(api.DELETE("/saved-analyses/{id}", { params: { path: { id: gone } } }));
      const back = address.with({});
      address.go(address.with({ [OPEN]: null }), { replace: true });
      said(`“${name}” deleted`, async () => {
        await answer(api.POST("/saved-analyses/{id}/restore", { params: { path: { id: gone } } }));
        address.go(back, { replace: true });
      });
    });
</script>

<div
  class="small {saved || writing || (id && open.problem) ? 'basis-full' : 'ml-auto'}"
  data-testid="saved-bar"
>
  {#if !writing}
    <div class="flex flex-wrap items-baseline gap-x-4 gap-y-1">
      {#if saved}
        <span
          ><b>{saved.name}</b><span class="soft"
            >{saved.folder ? `, in ${saved.folder}` : ""}, version {saved.version}{saved.private
              ? ", private"
              : ""}{moves(saved.question) ? ", rolling dates" : ""}</span
          ></span
        >
        {#if changed}
          <span class="soft">Unsaved changes</span>
          {#if session.may("analyst")}<button class="cursor-pointer underline" onclick={() => change()}
              >Save changes</button
            >{/if}
          <a href={linkTo(saved.analysis, saved.question, saved.id)}>Discard changes</a>
        {/if}
        {#if session.may("analyst")}<button class="cursor-pointer underline" onclick={begin}
            >Edit details…</button
          >{/if}
        {#if saved.versions.length > 1}<button
            class="cursor-pointer underline"
            aria-expanded={showing}
            onclick={() => (showing = !showing)}>Version history</button
          >{/if}
      {:else if id && open.problem}
        <span role="status">This analysis has been deleted, or it is private.</span>
      {/if}
      {#if !id && session.may("analyst")}
        <button class="cursor-pointer underline" onclick={begin}>Save analysis</button>
      {/if}
      {#if refused}<span role="alert" class="text-(--alarm)">{refused.detail}</span>{/if}
    </div>
    {#if saved && showing}
      <ul class="mt-1" data-testid="saved-versions">
        {#each saved.versions as version (version.version)}
          <li>
            <a href={linkTo(version.analysis, version.question, saved.id)}>version {version.version}</a>
            <span class="soft"
              >{version.author}, {moment(
                version.written_at,
                workspace.info?.time_zone ?? "UTC",
              )}{saved.note && version.version === saved.version ? `: ${saved.note}` : ""}</span
            >
          </li>
        {/each}
      </ul>
    {/if}
  {:else}
    <SavedForm {analysis} {saved} {busy} {refused} keep={saved ? change : add} {remove} {close} />
  {/if}
</div>
