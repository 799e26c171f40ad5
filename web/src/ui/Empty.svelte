<script lang="ts">
  import { address } from "../lib/address.svelte";
  import { answer, api, problemOf, type Problem } from "../lib/api/client";
  import { session } from "../lib/session.svelte";
  import Waiting from "./Waiting.svelte";

  /** What there is to do while nobody is known yet: the ways in. */
  let loading = $state(false);
  let problem = $state<Problem | null>(null);

  async function demo() {
    loading = true;
    try {
      await answer(api.POST("/workspace/demo"));
    } catch (error) {
      problem = problemOf(error);
      loading = false;
    }
  }
</script>

<h1 class="says mt-8 font-normal">No data yet. How do you want to add it?</h1>
{#if session.may("analyst")}
  <dl class="mt-6 grid max-w-4xl gap-x-10 gap-y-6 sm:grid-cols-3">
    <div>
      <dt><a class="act" href={address.to("/data")}>Import files</a></dt>
      <dd class="mt-2">
        CSV, JSON Lines or Parquet, with any column names. You check the column mapping before anything is
        stored.
      </dd>
    </div>
    <div>
      <dt><a class="quiet" href={address.to("/data/sources")}>Connect a source</a></dt>
      <dd class="mt-2">Your application or web site sends events as they happen.</dd>
    </div>
    {#if session.may("administrator")}
      <div>
        <dt>
          <button class="quiet" disabled={loading} onclick={demo}>
            {loading ? "The demo is being loaded …" : "Load the demo"}
          </button>
        </dt>
        <dd class="mt-2">
          {loading
            ? "This takes about a minute. The page updates automatically."
            : "Explore sample data: Ferrowick Bikes, a fictional bike-share scheme with 15 months of rides."}
        </dd>
      </div>
    {/if}
  </dl>
{:else}
  <p class="mt-3">Only analysts and administrators can import data.</p>
{/if}
{#if problem}<Waiting {problem} />{/if}
