<script lang="ts">
  import { address } from "../lib/address.svelte";
  import { answer, api, type Schemas } from "../lib/api/client";
  import Sharing, { belongs } from "../ui/Sharing.svelte";
  import Waiting from "../ui/Waiting.svelte";
  import Whose from "../ui/Whose.svelte";
  import { day, moment, number } from "../lib/format";
  import { channelName } from "../lib/channels";
  import { Removing } from "../lib/removing.svelte";
  import { Resource } from "../lib/resource.svelte";
  import { session } from "../lib/session.svelte";
  import { workspace } from "../lib/workspace.svelte";

  /** All exports, with how the last run of each went. */
  const exports = new Resource((signal) => answer(api.GET("/exports", { signal })));
  const audiences = new Resource((signal) => answer(api.GET("/audiences", { signal })));
  const removing = new Removing<Schemas["Export"]>(() => exports.reload());
  const shown = $derived((exports.data?.exports ?? []).filter((row) => belongs(row, address.get("whose"))));
  const rows = $derived(removing.placed(shown));

  function remove(row: Schemas["Export"]) {
    const params = { path: { id: row.id } };
    return removing.remove(
      row,
      shown,
      () => answer(api.DELETE("/exports/{id}", { params })),
      () => answer(api.POST("/exports/{id}/restore", { params })),
    );
  }

  function last(run: Schemas["Export"]["last_run"]): string {
    if (!run) return "never run";
    if (run.state !== "done") return `${run.state}, as of ${day(run.as_of)}`;
    return `${number(run.people?.exported ?? run.row_count ?? 0)} as of ${day(run.as_of)}`;
  }
</script>

{#if audiences.data && audiences.data.audiences.length === 0}
  <p class="says mt-4">No audiences yet.</p>
  {#if session.may("analyst")}
    <p class="mt-2"><a class="act" href={address.to("/audiences/new")}>New audience</a></p>
  {/if}
{:else if audiences.data}
  <p class="mt-4 flex items-center gap-4">
    {#if session.may("analyst")}<a class="act" href={address.to("/exports/new")}>New export</a>{/if}
    {#if exports.data?.exports.length}<Whose />{/if}
  </p>
{/if}
{#if removing.problem}<Waiting problem={removing.problem} />{/if}
{#if exports.data}
  {#if rows.length === 0 && exports.data.exports.length === 0}
    <p class="says mt-6">No exports yet.</p>
    <p class="mt-2 max-w-xl">
      An export sends an audience to a destination: exclusions, columns, file format and schedule. You see a
      preview before anything is sent.
    </p>
  {:else}
    <div class="mt-4 overflow-x-auto">
      <table class="figures" data-testid="exports">
        <thead>
          <tr>
            <th>Export</th><th>Channel</th><th>Destination</th><th>Mode</th><th>Next run</th><th
              class="number">Last run</th
            >
            <th><span class="sr-only">Actions</span></th>
          </tr>
        </thead>
        <tbody>
          {#each rows as { row, gone } (row.id)}
            <tr inert={gone} class={gone ? "opacity-50" : ""}>
              <td class="py-2!">
                {#if gone}<span class="font-semibold">{row.name}</span>{:else}<a
                    class="font-semibold"
                    href={address.to(`/exports/${row.id}`)}>{row.name}</a
                  >{/if}
                <span class="ml-2"><Sharing place="exports" {row} changed={() => exports.reload()} /></span>
                <p class="soft font-serif text-[0.95rem] leading-6">
                  {row.audience}{row.version ? `, version ${row.version}` : ""}: {row.sentence}
                </p>
              </td>
              <td class="py-2! whitespace-nowrap"
                >{row.rules.channel ? channelName(row.rules.channel) : "–"}</td
              >
              <td class="py-2!">{row.destination ?? "download"}</td>
              <td class="py-2!">{row.rules.mode === "changes" ? "changes" : "full audience"}</td>
              <td class="soft small py-2! whitespace-nowrap"
                >{row.next_run_at ? moment(row.next_run_at, workspace.info!.time_zone) : "manually"}</td
              >
              <td
                class="number py-2! {row.last_run?.state === 'failed' || row.last_run?.state === 'waiting'
                  ? 'text-(--alarm)'
                  : ''}"
              >
                {#if row.last_run}<a href={address.to(`/exports/runs/${row.last_run.id}`)}
                    >{last(row.last_run)}</a
                  >{:else}<span class="soft">never run</span>{/if}
              </td>
              <td class="number py-2!"
                >{#if session.may("analyst")}<button
                    class="quiet"
                    aria-label="Delete {row.name}"
                    onclick={() => remove(row)}>{gone ? "Deleted" : "Delete"}</button
                  >{/if}</td
              >
            </tr>
          {/each}
        </tbody>
      </table>
    </div>
  {/if}
{:else}
  <Waiting problem={exports.problem} retry={() => exports.reload()} />
{/if}
