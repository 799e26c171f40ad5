<script lang="ts">
  import { address } from "../lib/address.svelte";
  import { answer, api, problemOf, type Problem, type Schemas } from "../lib/api/client";
  import Waiting from "../lib/components/Waiting.svelte";
  import { bytes, day, moment, number } from "../lib/format";
  import { Resource } from "../lib/resource.svelte";
  import { workspace } from "../lib/workspace.svelte";

  const POLL = 700;

  let picked = $state<string[] | null>(null);
  let format = $state<"csv" | "jsonl">("csv");
  let neutralise = $state(true);
  let starting = $state(false);
  let problem = $state<Problem | null>(null);

  const audiences = new Resource((signal) =>
    answer(api.GET("/audiences", { params: { query: { as_of: workspace.asOf } }, signal })),
  );
  const runs = new Resource((signal) => answer(api.GET("/exports", { signal })));
  const available = $derived(workspace.catalogue?.columns ?? []);
  // Until something is picked: every identifier, the state and the quiet days.
  const columns = $derived(
    picked ?? available.filter((column) => /^identifier:|^state$|^quiet_days$/.test(column)),
  );
  const chosen = $derived(
    audiences.data?.audiences.find((row) => String(row.id) === address.get("audience")) ?? null,
  );
  const working = $derived(
    runs.data?.runs.some((run) => run.state === "queued" || run.state === "running") ?? false,
  );

  $effect(() => {
    if (!working) return;
    const timer = setInterval(() => void runs.reload(), POLL);
    return () => clearInterval(timer);
  });

  function toggle(column: string, on: boolean) {
    picked = available.filter((other) => (other === column ? on : columns.includes(other)));
  }

  function named(column: string): string {
    return column.replace(/^(identifier|attribute):/, "");
  }

  async function start(event: SubmitEvent) {
    event.preventDefault();
    if (!chosen || starting) return;
    starting = true;
    try {
      const body = {
        audience_id: chosen.id,
        columns,
        format,
        neutralise_formulas: neutralise,
        as_of: workspace.asOf,
      };
      await answer(api.POST("/exports", { body }));
      problem = null;
      await runs.reload();
    } catch (error) {
      problem = problemOf(error);
    } finally {
      starting = false;
    }
  }

  function outcome(run: Schemas["Run"]): string {
    if (run.state === "done") return `${number(run.row_count!)} people, ${bytes(run.bytes!)}`;
    return run.state === "failed" ? (run.error ?? "failed") : `${run.state}…`;
  }
</script>

<h1>Exports</h1>
{#if audiences.data && audiences.data.audiences.length === 0}
  <p class="says mt-4">There is no audience to hand over yet.</p>
  <p class="mt-2"><a class="act" href={address.to("/audiences/new")}>Write an audience</a></p>
{:else if audiences.data}
  <form class="mt-4 grid gap-x-10 gap-y-4 lg:grid-cols-[22rem_1fr]" onsubmit={start}>
    <div class="flex flex-col gap-4">
      <label class="field">
        Hand over
        <select
          required
          value={address.get("audience") ?? ""}
          onchange={(event) => address.go(address.with({ audience: event.currentTarget.value }))}
        >
          <option value="" disabled>choose an audience</option>
          {#each audiences.data.audiences as row (row.id)}
            <option value={String(row.id)}
              >{row.name} ({row.size === null ? "cannot be computed" : number(row.size)})</option
            >
          {/each}
        </select>
      </label>
      <fieldset>
        <legend class="text-[0.9rem]">as</legend>
        <label class="mr-4 inline-flex items-center gap-2"
          ><input type="radio" bind:group={format} value="csv" /> CSV</label
        >
        <label class="inline-flex items-center gap-2"
          ><input type="radio" bind:group={format} value="jsonl" /> JSON Lines</label
        >
      </fieldset>
      {#if format === "csv"}
        <label class="flex items-start gap-2 text-[0.9rem]">
          <input type="checkbox" class="mt-1" bind:checked={neutralise} />
          <span>Put an apostrophe before cells that a spreadsheet would run as a formula</span>
        </label>
      {/if}
      <div>
        <button class="act" disabled={!chosen || chosen.size === null || columns.length === 0 || starting}>
          {chosen?.size === null || !chosen ? "Hand over" : `Hand over ${number(chosen.size)} people`}
        </button>
        <p class="soft small mt-2">as of {day(workspace.asOf)}</p>
      </div>
    </div>
    <fieldset>
      <legend class="mb-1 text-[0.9rem]">with these columns</legend>
      <div class="grid grid-cols-2 gap-x-6 sm:grid-cols-3">
        {#each available as column (column)}
          <label class="flex items-center gap-2 py-1">
            <input
              type="checkbox"
              checked={columns.includes(column)}
              onchange={(event) => toggle(column, event.currentTarget.checked)}
            />
            {named(column)}
          </label>
        {/each}
      </div>
      {#if chosen}<p class="soft mt-4 font-serif">{chosen.sentence}.</p>{/if}
    </fieldset>
  </form>
{/if}
{#if problem}<Waiting {problem} />{/if}

<h2 class="mt-10">Runs</h2>
{#if runs.data}
  {#if runs.data.runs.length === 0}
    <p class="soft">Nothing has been handed over yet.</p>
  {:else}
    <div class="overflow-x-auto">
      <table class="figures" data-testid="runs">
        <thead>
          <tr>
            <th>Audience</th><th>As of</th><th>Columns</th><th>Outcome</th><th>SHA-256</th><th>Started</th><th
              >File</th
            >
          </tr>
        </thead>
        <tbody>
          {#each runs.data.runs as run (run.id)}
            <tr>
              <td>
                <a href={address.to(`/audiences/${run.audience_id}`)} title={run.sentence}>{run.audience}</a>
                <span class="soft small">version {run.version}</span>
              </td>
              <td class="whitespace-nowrap">{day(run.as_of)}</td>
              <td class="soft small max-w-56 truncate leading-6" title={run.columns.map(named).join(", ")}>
                {run.columns.map(named).join(", ")}
              </td>
              <td class={run.state === "failed" ? "text-(--alarm)" : ""}>{outcome(run)}</td>
              <td class="soft small leading-6" title={run.sha256}
                >{run.sha256 ? `${run.sha256.slice(0, 12)}…` : "–"}</td
              >
              <td class="soft small leading-6 whitespace-nowrap"
                >{moment(run.created_at, workspace.info!.time_zone)}</td
              >
              <td class="whitespace-nowrap">
                {#if run.state === "done"}
                  <a href="/api/exports/{run.id}/file" download
                    >{run.format === "csv"
                      ? run.neutralise_formulas
                        ? "CSV"
                        : "CSV, formulas kept"
                      : "JSON Lines"}</a
                  >
                {:else}–{/if}
              </td>
            </tr>
          {/each}
        </tbody>
      </table>
    </div>
  {/if}
{:else}
  <Waiting problem={runs.problem} retry={() => runs.reload()} />
{/if}
