<script lang="ts">
  import { answer, api } from "../lib/api/client";
  import RunsTable from "./RunsTable.svelte";
  import Waiting from "../ui/Waiting.svelte";
  import { polling } from "../lib/polling.svelte";
  import { Resource } from "../lib/resource.svelte";

  /** The runs of all exports. */
  const runs = new Resource((signal) => answer(api.GET("/runs", { signal })));
  polling(
    () => runs.data?.runs ?? [],
    () => runs.reload(),
  );
</script>

{#if runs.data?.runs.length === 0}
  <p class="soft mt-6">No runs yet.</p>
{:else if runs.data}
  <div class="mt-4"><RunsTable runs={runs.data.runs} named changed={() => runs.reload()} /></div>
{:else}
  <Waiting problem={runs.problem} retry={() => runs.reload()} />
{/if}
