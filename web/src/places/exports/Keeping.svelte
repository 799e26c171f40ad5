<script lang="ts">
  import { answer, api, problemOf, type Problem, type Schemas } from "../../lib/api/client";
  import Waiting from "../../lib/components/Waiting.svelte";
  import { moment, number, percent, plural } from "../../lib/format";
  import { Resource } from "../../lib/resource.svelte";
  import { said } from "../../lib/toasts.svelte";
  import { workspace } from "../../lib/workspace.svelte";

  /** What plans refer to: lists of whom not to contact, holdouts, and folders as destinations. */
  const KINDS = ["email", "phone", "customer"] as const;
  const lists = new Resource((signal) => answer(api.GET("/contact-lists", { signal })));
  const holdouts = new Resource((signal) => answer(api.GET("/holdouts", { signal })));
  const destinations = new Resource((signal) => answer(api.GET("/destinations", { signal })));
  let problem = $state<Problem | null>(null);
  let list = $state<{ name: string; kind: (typeof KINDS)[number] }>({ name: "", kind: "email" });
  let holdout = $state({ name: "", by: "share" as "share" | "number", amount: 10 });
  let folder = $state({ name: "", folder: "" });

  async function attempt(work: () => Promise<unknown>, again: { reload: () => Promise<void> }) {
    problem = null;
    try {
      await work();
      await again.reload();
    } catch (error) {
      problem = problemOf(error);
    }
  }

  async function add(row: Schemas["ContactList"], files: FileList | null) {
    const file = files?.[0];
    if (!file) return;
    await attempt(async () => {
      const values = await file.text();
      const found = await answer(
        api.POST("/contact-lists/{id}/values", {
          params: { path: { id: row.id } },
          body: values as never,
          bodySerializer: (text) => text as unknown as string,
          headers: { "content-type": "text/plain" },
        }),
      );
      said(`${plural(found.read, "value")} read, ${number(found.added)} of them new`);
    }, lists);
  }

  function holdoutBody(): { name: string; share?: number; number?: number } {
    const { name, by, amount } = holdout;
    return by === "share" ? { name, share: amount / 100 } : { name, number: amount };
  }
</script>

{#if problem}<Waiting {problem} />{/if}

<h2 class="mt-6">Not to be contacted</h2>
<p class="soft max-w-2xl">
  Lists of e-mail addresses, phone numbers or customer IDs, one a line, in plain or as SHA-256 of their normal
  form. Only digests are kept.
</p>
{#if lists.data}
  {#if lists.data.lists.length}
    <div class="mt-2 overflow-x-auto">
      <table class="figures w-auto!" data-testid="lists">
        <thead>
          <tr
            ><th>List</th><th>Of</th><th class="number">Values</th><th>Changed</th><th
              ><span class="sr-only">Actions</span></th
            ></tr
          >
        </thead>
        <tbody>
          {#each lists.data.lists as row (row.id)}
            <tr>
              <td class="pr-8!">{row.name}</td>
              <td class="pr-8!">{row.kind}</td>
              <td class="number">{number(row.size)}</td>
              <td class="soft small pl-6! leading-6">{moment(row.updated_at, workspace.info!.time_zone)}</td>
              <td>
                <label class="quiet"
                  >Add from a file …<input
                    type="file"
                    class="sr-only"
                    aria-label="Values to add to {row.name}"
                    onchange={(event) => add(row, event.currentTarget.files)}
                  /></label
                >
                <button
                  class="quiet"
                  aria-label="Remove {row.name}"
                  onclick={() =>
                    attempt(
                      () => answer(api.DELETE("/contact-lists/{id}", { params: { path: { id: row.id } } })),
                      lists,
                    )}>Remove</button
                >
              </td>
            </tr>
          {/each}
        </tbody>
      </table>
    </div>
  {/if}
  <form
    class="mt-3 flex flex-wrap items-end gap-3"
    onsubmit={(event) => {
      event.preventDefault();
      void attempt(async () => {
        await answer(api.POST("/contact-lists", { body: { ...list } }));
        list.name = "";
      }, lists);
    }}
  >
    <label class="field">A new list called <input required maxlength="255" bind:value={list.name} /></label>
    <label class="field"
      >of <select bind:value={list.kind}
        >{#each KINDS as kind (kind)}<option value={kind}
            >{kind === "customer"
              ? "customer IDs"
              : kind === "email"
                ? "e-mail addresses"
                : "phone numbers"}</option
          >{/each}</select
      ></label
    >
    <button class="quiet">Make the list</button>
  </form>
{:else}<Waiting problem={lists.problem} retry={() => lists.reload()} />{/if}

<h2 class="mt-8">Holdouts</h2>
<p class="soft max-w-2xl">
  People kept back on purpose, to measure against. Who is held out follows from the holdout’s name and the
  person alone, so plans that share a holdout never message them. What it holds out cannot be changed later.
</p>
{#if holdouts.data}
  {#if holdouts.data.holdouts.length}
    <table class="figures mt-2 w-auto!" data-testid="holdouts">
      <thead><tr><th>Holdout</th><th>Holds out</th></tr></thead>
      <tbody>
        {#each holdouts.data.holdouts as row (row.id)}
          <tr>
            <td class="pr-8!">{row.name}</td>
            <td
              >{row.share === null
                ? `${number(row.number!)} people${row.settled ? ", settled by the first run" : ""}`
                : percent(row.share)}</td
            >
          </tr>
        {/each}
      </tbody>
    </table>
  {/if}
  <form
    class="mt-3 flex flex-wrap items-end gap-3"
    onsubmit={(event) => {
      event.preventDefault();
      void attempt(async () => {
        await answer(api.POST("/holdouts", { body: holdoutBody() }));
        holdout.name = "";
      }, holdouts);
    }}
  >
    <label class="field"
      >A new holdout called <input required maxlength="255" bind:value={holdout.name} /></label
    >
    <label class="field"
      >that holds out <input
        type="number"
        class="w-24"
        min="0"
        max={holdout.by === "share" ? 100 : 1_000_000_000}
        step={holdout.by === "share" ? "any" : "1"}
        required
        bind:value={holdout.amount}
      /></label
    >
    <select aria-label="Unit of the holdout" bind:value={holdout.by}
      ><option value="share">per cent</option><option value="number">people</option></select
    >
    <button class="quiet">Make the holdout</button>
  </form>
{:else}<Waiting problem={holdouts.problem} retry={() => holdouts.reload()} />{/if}

<h2 class="mt-8">Folders</h2>
<p class="soft max-w-2xl">
  A folder under the outbox on this machine, from where another program takes the files. A file appears there
  whole, after the manifest that describes it.
</p>
{#if destinations.data}
  {#if destinations.data.destinations.length}
    <table class="figures mt-2 w-auto!" data-testid="destinations">
      <thead><tr><th>Destination</th><th>Folder</th><th><span class="sr-only">Actions</span></th></tr></thead>
      <tbody>
        {#each destinations.data.destinations as row (row.id)}
          <tr>
            <td class="pr-8!">{row.name}</td>
            <td class="pr-8!"><code>{row.settings.folder}</code></td>
            <td
              ><button
                class="quiet"
                aria-label="Remove {row.name}"
                onclick={() =>
                  attempt(
                    () => answer(api.DELETE("/destinations/{id}", { params: { path: { id: row.id } } })),
                    destinations,
                  )}>Remove</button
              ></td
            >
          </tr>
        {/each}
      </tbody>
    </table>
  {/if}
  <form
    class="mt-3 flex flex-wrap items-end gap-3"
    onsubmit={(event) => {
      event.preventDefault();
      void attempt(async () => {
        const { name } = folder;
        await answer(
          api.POST("/destinations", { body: { name, kind: "folder", settings: { folder: folder.folder } } }),
        );
        folder = { name: "", folder: "" };
      }, destinations);
    }}
  >
    <label class="field"
      >A new destination called <input required maxlength="255" bind:value={folder.name} /></label
    >
    <label class="field">in the folder <input required maxlength="100" bind:value={folder.folder} /></label>
    <button class="quiet">Make the destination</button>
  </form>
{:else}<Waiting problem={destinations.problem} retry={() => destinations.reload()} />{/if}
