<script lang="ts">
  import { address } from "../lib/address.svelte";
  import { answer, api, problemOf, type Problem, type Schemas } from "../lib/api/client";
  import ImportRow from "./ImportRow.svelte";
  import { session } from "../lib/session.svelte";
  import FirstSteps from "./FirstSteps.svelte";
  import RemoveAll from "./RemoveAll.svelte";
  import UploadForm from "./UploadForm.svelte";
  import Waiting from "../ui/Waiting.svelte";
  import { Resource } from "../lib/resource.svelte";
  import { workspace } from "../lib/workspace.svelte";
  import Wide from "../ui/Wide.svelte";

  const POLL = 600;

  let problem = $state<Problem | null>(null);
  let removing = $state(false);
  const imports = new Resource((signal) => answer(api.GET("/imports", { signal })));
  const working = $derived(
    imports.data?.imports.some((row) => row.state === "queued" || row.state === "running") ?? false,
  );
  let wasWorking = false;

  $effect(() => {
    if (!working) {
      if (wasWorking) void workspace.refresh();
      wasWorking = false;
      return;
    }
    wasWorking = true;
    const timer = setInterval(() => {
      void imports.reload();
    }, POLL);
    return () => clearInterval(timer);
  });

  // The ledger is refreshed a moment after an import is done.
  $effect(() => {
    if (working || !imports.data?.imports.length) return;
    const timer = setTimeout(() => void workspace.refresh(), 2500);
    return () => clearTimeout(timer);
  });

  async function removed() {
    await workspace.refresh();
    await imports.reload();
    address.go("/data", { replace: true });
  }

  async function cancel(row: Schemas["Import"]) {
    try {
      await answer(api.POST("/imports/{id}/cancel", { params: { path: { id: row.id } } }));
      await imports.reload();
    } catch (error) {
      problem = problemOf(error);
    }
  }
</script>

{#if workspace.info?.demo}
  <div class="mt-3 flex flex-wrap items-center gap-x-4 gap-y-2" data-testid="demo-ends">
    <p class="max-w-2xl">
      This is demo data. Before importing your own, set a password under <a href={address.to("/account")}
        >Account</a
      > and remove the demo: all demo people, events, audiences and exports are deleted. Password-free sign-in ends
      once your own data is in.
    </p>
    {#if session.may("administrator")}<button class="quiet" onclick={() => (removing = true)}
        >Remove demo data…</button
      >{/if}
  </div>
{:else}
  <FirstSteps />
{/if}
{#if session.may("analyst")}
  <h2 class="mt-5">Import a file</h2>
  <UploadForm done={() => imports.reload()} />
{:else}
  <p class="soft mt-4">Only analysts and administrators can import files.</p>
{/if}
{#if problem}<Waiting {problem} />{/if}

<h2 class="mt-8">Imports</h2>
{#if imports.data}
  {#if imports.data.imports.length === 0}
    <p class="soft">No imports yet.</p>
  {:else}
    <Wide label="Imports">
      <table class="figures" data-testid="imports">
        <thead>
          <tr>
            <th>File</th><th>What</th><th>State</th><th class="number">Read</th><th class="number">Stored</th>
            <th class="number">Duplicates</th><th class="number">Rejected</th><th class="number">Rows/s</th>
          </tr>
        </thead>
        <tbody>
          {#each imports.data.imports as row (row.id)}<ImportRow {row} {cancel} />{/each}
        </tbody>
      </table>
    </Wide>
  {/if}
{:else}
  <Waiting problem={imports.problem} retry={() => imports.reload()} />
{/if}

{#if workspace.info?.ready && !workspace.info.demo && session.may("administrator")}
  <h2 class="mt-10">Start over</h2>
  <p class="mb-2 max-w-xl">To start again with other files, remove all data first.</p>
  <button class="quiet" onclick={() => (removing = true)}>Remove all data…</button>
{/if}
<!-- It outlives the buttons that open it, which go with the data. -->
<RemoveAll bind:open={removing} done={removed} />
