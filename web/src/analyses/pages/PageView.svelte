<script lang="ts">
  import { untrack } from "svelte";
  import { apiAddress } from "../../lib/base";
  import { address } from "../../lib/address.svelte";
  import { answer, api, problemOf, type Problem } from "../../lib/api/client";
  import { day, moment } from "../../lib/format";
  import { saveError, theirsOf } from "../../lib/conflict";
  import { FormDraft } from "../../lib/formDraft";
  import { rebased } from "../../lib/rebased";
  import { Resource } from "../../lib/resource.svelte";
  import { session } from "../../lib/session.svelte";
  import { said } from "../../lib/toasts.svelte";
  import { workspace } from "../../lib/workspace.svelte";
  import AddChoice from "../../ui/AddChoice.svelte";
  import Conflict from "../../ui/Conflict.svelte";
  import Waiting from "../../ui/Waiting.svelte";
  import AnalysisBlock from "./AnalysisBlock.svelte";
  import AudienceBlock from "./AudienceBlock.svelte";
  import BlockWriter from "./BlockWriter.svelte";
  import Comments from "./Comments.svelte";
  import PageSettings from "./PageSettings.svelte";
  import Sendings from "./Sendings.svelte";
  import { moved, PAGES, written, type Block, type Page, type Written } from "./pages";

  /** A page: headings, words, saved analyses and audiences, read as of the date of the place, or written. */
  let { id }: { id: number } = $props();

  const path = $derived({ path: { id } });
  const page = new Resource<Page>((signal) => answer(api.GET("/pages/{id}", { params: path, signal })));
  const saved = new Resource((signal) => answer(api.GET("/saved-analyses", { signal })));
  const audiences = new Resource((signal) => answer(api.GET("/audiences", { signal })));
  const analyses = $derived(saved.data?.saved_analyses ?? []);
  const kept = $derived((audiences.data?.audiences ?? []).filter(({ deleted }) => !deleted));

  /** What is being written; null while the page is read. A page without anything on it is written at once. */
  let draft = $state<Written | null>(null);
  /** The page as it was saved when writing it began, or when the draft kept by this tab was written. */
  let basis = $state.raw<{ written: Written; updated_at: string } | null>(null);
  let theirs = $state.raw<Page | null>(null);
  const formDraft = untrack(() => new FormDraft<Written & { basis: string }>(`page-${id}`));
  let refused = $state<Problem | null>(null);
  let busy = $state(false);
  const shown = $derived<Block[]>(draft?.blocks ?? page.data?.blocks ?? []);
  const changed = $derived(
    draft !== null && basis !== null && JSON.stringify(draft) !== JSON.stringify(basis.written),
  );
  const documentLink = $derived(
    apiAddress(`/pages/${id}/document.html?${new URLSearchParams({ as_of: workspace.asOf })}`),
  );

  /** The draft that this tab has kept, once the page is there. */
  let sought = false;
  $effect(() => {
    if (!page.data || sought) return;
    sought = true;
    const kept = formDraft.read({ ...written(page.data), basis: "" });
    if (!kept || !session.may("analyst")) return;
    const { basis: time, ...fields } = kept;
    write(page.data, fields);
    if (time !== page.data.updated_at) theirs = page.data;
  });
  $effect(() => {
    if (!draft || !basis) return;
    const now = $state.snapshot(draft) as Written;
    if (changed) formDraft.keep({ ...now, basis: basis.updated_at }, { ...basis.written, basis: "" });
    else formDraft.forget();
  });

  function write(from: Page, fields = written(from)) {
    refused = theirs = null;
    basis = { written: written(from), updated_at: from.updated_at };
    draft = fields;
  }

  function leave() {
    draft = basis = theirs = refused = null;
    formDraft.forget();
  }

  const read = () => answer(api.GET("/pages/{id}", { params: path }));

  const ADD = { heading: "heading", text: "text" } as const;
  function add(block: Block) {
    draft!.blocks = [...draft!.blocks, block];
  }

  async function keep(over: { updated_at: string } | null = basis) {
    if (busy || !draft || !over) return;
    busy = true;
    refused = null;
    const sent = $state.snapshot(draft) as Written;
    const body = { ...sent, name: sent.name.trim(), updated_at: over.updated_at };
    try {
      const saved = await answer(api.PUT("/pages/{id}", { params: path, body }));
      await page.reload();
      const now = rebased($state.snapshot(draft) as Written, sent, written(saved));
      if (JSON.stringify(now) === JSON.stringify(written(saved))) leave();
      else write(saved, now);
      said("Report saved");
    } catch (error) {
      theirs = await theirsOf(error, over, read).catch(() => null);
      if (!theirs) refused = problemOf(saveError(error, "report"));
    }
    busy = false;
  }

  async function restore() {
    try {
      await keep(await answer(api.POST("/pages/{id}/restore", { params: path })));
    } catch (error) {
      refused = problemOf(error);
    }
  }

  /** What is on a page, a line each. */
  function contents(blocks: Block[]): string[] {
    return blocks.map((block) => {
      if (block.kind === "heading" || block.kind === "text") return block.text ?? "";
      const rows: { id: number; name: string }[] = block.kind === "analysis" ? analyses : kept;
      return rows.find((row) => row.id === block.id)?.name ?? "";
    });
  }

  async function remove() {
    const { name } = page.data!;
    try {
      await answer(api.DELETE("/pages/{id}", { params: path }));
    } catch (error) {
      refused = problemOf(error);
      return;
    }
    address.go(address.to(PAGES));
    said(`“${name}” has been deleted`, async () => {
      await answer(api.POST("/pages/{id}/restore", { params: path }));
      address.go(address.to(`${PAGES}/${id}`));
    });
  }
</script>

{#snippet outline(name: string, blocks: Block[])}
  <p class="font-semibold">{name}</p>
  <ul class="list-disc pl-5">
    {#each contents(blocks) as line, place (place)}<li class="truncate">{line}</li>{/each}
  </ul>
{/snippet}

{#if page.data}
  {@const whole = page.data}
  <article class="mt-4 max-w-[60rem]">
    {#if draft}
      <h2 class="sr-only">Edit “{whole.name}”</h2>
      <PageSettings bind:draft />
    {:else}
      <h2 class="text-[1.7rem]! leading-tight!">{whole.name}</h2>
    {/if}
    <p class="soft small mt-1 flex flex-wrap gap-x-4">
      <span
        >As of {day(workspace.asOf)}{whole.private
          ? ", private"
          : whole.owner
            ? `, by ${whole.owner}`
            : ""}{whole.next_run_at
          ? `; next sent to ${whole.destination} on ${moment(whole.next_run_at, workspace.info?.time_zone ?? "UTC")}`
          : ""}</span
      >
      {#if !draft}
        <span class="paperless flex flex-wrap gap-x-4">
          {#if session.may("analyst")}<button class="cursor-pointer underline" onclick={() => write(whole)}
              >Edit</button
            >{/if}
          <button class="cursor-pointer underline" onclick={() => print()}>print</button>
          <a href={documentLink} download>Download HTML</a>
          {#if session.may("analyst")}<button class="cursor-pointer underline" onclick={remove}>delete</button
            >{/if}
        </span>
      {/if}
    </p>

    <div class="mt-4 flex flex-col gap-8">
      {#each shown as block, place (block)}
        {#snippet figure()}
          {@const one = analyses.find((row) => row.id === block.id)}
          {@const audience = kept.find((row) => row.id === block.id)}
          {#if block.kind === "analysis" && one}
            {#key one.version}<AnalysisBlock
                {block}
                saved={one}
                choose={draft
                  ? (drawn, table) => {
                      draft!.blocks[place] = { ...block, table, ...(drawn ? { drawn } : {}) };
                    }
                  : null}
              />{/key}
          {:else if block.kind === "audience" && audience}<AudienceBlock {audience} />
          {:else if saved.loading || audiences.loading}<div class="min-h-[28rem]"><Waiting /></div>
          {:else}<p class="soft">This content has been deleted.</p>{/if}
        {/snippet}
        {#if draft}
          <BlockWriter
            bind:block={draft.blocks[place]!}
            {place}
            last={place === shown.length - 1}
            move={(by) => (draft!.blocks = moved(draft!.blocks, place, by))}
            remove={() => (draft!.blocks = draft!.blocks.filter((_, other) => other !== place))}
            >{@render figure()}</BlockWriter
          >
        {:else if block.kind === "heading"}
          <h2 class="mt-2 text-[1.35rem]!">{block.text}</h2>
        {:else if block.kind === "text"}
          <p class="max-w-[46rem] leading-7 whitespace-pre-line">{block.text}</p>
        {:else}
          <section class="whole">{@render figure()}</section>
        {/if}
      {:else}
        {#if !draft}<p class="soft">
            This report is empty.{#if session.may("analyst")}
              Click Edit to add content.{/if}
          </p>{/if}
      {/each}
    </div>

    {#if draft}
      <div class="mt-6 flex flex-wrap items-center gap-3" data-testid="add-block">
        {#each Object.entries(ADD) as [kind, name] (kind)}
          <button class="quiet" onclick={() => add({ kind: kind as keyof typeof ADD, text: "" })}
            >+ {name}</button
          >
        {/each}
        <AddChoice
          what="a saved analysis"
          add={(one) => add({ kind: "analysis", id: Number(one), table: false })}
        >
          {#each analyses as one (one.id)}<option value={String(one.id)}>{one.name}</option>{/each}
        </AddChoice>
        <AddChoice what="an audience" add={(one) => add({ kind: "audience", id: Number(one) })}>
          {#each kept as one (one.id)}<option value={String(one.id)}>{one.name}</option>{/each}
        </AddChoice>
      </div>
      {#if !analyses.length}<p class="soft small mt-1">
          No saved analyses yet. Open an analysis and click Save analysis.
        </p>{/if}
      <p class="mt-6 flex flex-wrap items-center gap-4">
        <button class="act" disabled={busy || !draft.name.trim()} onclick={() => keep()}>Save report</button>
        <button class="quiet" onclick={leave}>{changed ? "Discard changes" : "Done"}</button>
      </p>
    {/if}
    {#if theirs && draft}
      {@const other = theirs}
      {@const mine = draft}
      <Conflict what="report" {busy} keep={() => keep(other)} adopt={() => write(other)}>
        {#snippet there()}{@render outline(other.name, other.blocks)}{/snippet}
        {#snippet here()}{@render outline(mine.name, mine.blocks)}{/snippet}
      </Conflict>
    {/if}
    {#if refused}<Waiting problem={refused} {restore} />{/if}

    {#if !draft}
      <Sendings page={whole} reload={() => page.reload()} />
      <Comments page={whole} reload={() => page.reload()} />
    {/if}
  </article>
{:else if page.problem?.status === 404}
  <p class="mt-4" role="status">
    This report has been deleted, or it is private. <a href={address.to(PAGES)}>All reports</a>
  </p>
{:else}<Waiting of={page} />{/if}
