<script lang="ts">
  import { answer, api } from "../lib/api/client";
  import { Form } from "../lib/form.svelte";
  import Waiting from "../ui/Waiting.svelte";
  import { number, percent } from "../lib/format";
  import { Kept } from "../lib/kept.svelte";
  import Reserved from "../ui/Reserved.svelte";

  /** Who is in the holdout to measure against. */
  const holdouts = new Kept((signal) => answer(api.GET("/holdouts", { signal })));
  const form = new Form("holdout", { name: "", by: "share" as "share" | "number", amount: 10 });

  function holdoutBody(): { name: string; share?: number; number?: number } {
    const { name, by, amount } = form.fields;
    return by === "share" ? { name, share: amount / 100 } : { name, number: amount };
  }
</script>

{#if holdouts.refused}<Waiting problem={holdouts.refused} />{/if}
<h2 class="mt-8">Holdouts</h2>
<p class="soft max-w-2xl">
  Control groups that are not messaged. Assignment depends only on the holdout's name and the person, so
  exports that share a holdout exclude the same people. It cannot be changed later.
</p>
{#if holdouts.data}
  {#if holdouts.data.holdouts.length}
    <table class="figures mt-2 w-auto!" data-testid="holdouts">
      <thead><tr><th>Holdout</th><th>Size</th></tr></thead>
      <tbody>
        {#each holdouts.data.holdouts as row (row.id)}
          <tr>
            <td class="pr-8!">{row.name}</td>
            <td
              >{row.share === null
                ? `${number(row.number!)} people${row.settled ? ", set by the first run" : ""}`
                : percent(row.share)}</td
            >
          </tr>
        {/each}
      </tbody>
    </table>
  {/if}
  <Reserved role="analyst" what="create holdouts"
    ><form
      class="mt-3 flex flex-wrap items-end gap-3"
      onsubmit={(event) => {
        event.preventDefault();
        void holdouts.attempt(async () => {
          await answer(api.POST("/holdouts", { body: holdoutBody() }));
          form.end();
        });
      }}
    >
      <label class="field">New holdout <input required maxlength="255" bind:value={form.fields.name} /></label
      >
      <label class="field"
        >of <input
          type="number"
          class="w-24"
          min="0"
          max={form.fields.by === "share" ? 100 : 1_000_000_000}
          step={form.fields.by === "share" ? "any" : "1"}
          required
          bind:value={form.fields.amount}
        /></label
      >
      <select aria-label="Unit of the holdout" bind:value={form.fields.by}
        ><option value="share">percent</option><option value="number">people</option></select
      >
      <button class="quiet">Create holdout</button>
    </form></Reserved
  >
{:else}<Waiting problem={holdouts.problem} retry={() => holdouts.reload()} />{/if}
