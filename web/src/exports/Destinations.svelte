<script lang="ts">
  import { answer, api, type Schemas } from "../lib/api/client";
  import DestinationForm from "./DestinationForm.svelte";
  import RemoveButton from "../ui/RemoveButton.svelte";
  import Waiting from "../ui/Waiting.svelte";
  import { number, plural } from "../lib/format";
  import { Kept } from "../lib/kept.svelte";
  import { said } from "../lib/toasts.svelte";
  import { session } from "../lib/session.svelte";
  import Reserved from "../ui/Reserved.svelte";

  /** Where exports can put what they export, besides here to download: folders and webhooks. */
  type Row = Schemas["Destination"];
  const destinations = new Kept((signal) => answer(api.GET("/destinations", { signal })));
  let changing = $state<Row | null>(null);
  let secret = $state<string | null>(null);
  let tried = $state<{ id: number; works: boolean; says: string } | null>(null);
  let trying = $state<number | null>(null);

  function keep(given: Schemas["DestinationGiven"]): Promise<boolean> {
    const path = changing && { id: changing.id };
    return done(async () => {
      const kept = await answer(
        path
          ? api.PUT("/destinations/{id}", { params: { path }, body: given })
          : api.POST("/destinations", { body: given }),
      );
      secret = kept.secret;
      changing = null;
      said(`${kept.name} has been saved`);
    });
  }

  async function done(work: () => Promise<unknown>): Promise<boolean> {
    await destinations.attempt(work);
    return destinations.refused === null;
  }

  async function attempt(row: Row) {
    trying = row.id;
    tried = null;
    await destinations.attempt(async () => {
      const found = await answer(api.POST("/destinations/{id}/try", { params: { path: { id: row.id } } }));
      tried = { id: row.id, ...found };
    });
    trying = null;
  }

  function told(row: Row): string {
    const { batch_size, rows_per_second, timeout, notices } = row.settings;
    const rate = rows_per_second ? `, max. ${number(rows_per_second)} per second` : "";
    return `${plural(batch_size!, "person", "people")} per message${rate}, timeout ${timeout} s${notices ? ", notifications on" : ""}`;
  }

  function remove({ id }: Row): Promise<void> {
    return destinations.attempt(() => answer(api.DELETE("/destinations/{id}", { params: { path: { id } } })));
  }
</script>

<h2 class="mt-8">Destinations</h2>
<p class="soft max-w-2xl">
  Besides downloads, exports can go to an outbox folder on this server, where another program collects the
  files (manifest first), or to a webhook that receives people in signed HTTPS messages.
</p>
{#if destinations.refused}<Waiting problem={destinations.refused} />{/if}
{#if secret}
  <div class="mt-3 border-l-4 border-(--accent) pl-3" role="status" data-testid="secret">
    <p>
      Signing secret for the receiving system. Copy it now; it is not shown again:
      <code class="font-semibold break-all">{secret}</code>
      <button class="quiet ml-2" onclick={() => (secret = null)}>Done</button>
    </p>
  </div>
{/if}
{#if destinations.data}
  {#if destinations.data.destinations.length}
    <div class="mt-2 overflow-x-auto">
      <table class="figures w-auto!" data-testid="destinations">
        <thead
          ><tr
            ><th>Destination</th><th>Where</th><th>Settings</th><th><span class="sr-only">Actions</span></th
            ></tr
          ></thead
        >
        <tbody>
          {#each destinations.data.destinations as row (row.id)}
            <tr>
              <td class="pr-8!">{row.name}</td>
              <td class="pr-8!"
                ><code class="small break-all"
                  >{row.kind === "folder" ? `outbox/${row.settings.folder}` : row.settings.url}</code
                ></td
              >
              <td class="small pr-8!">
                {row.kind === "folder" ? "files into a folder" : told(row)}
                {#if tried?.id === row.id}
                  <span class="block leading-5 {tried.works ? '' : 'text-(--alarm)'}" role="status"
                    >{tried.works ? "Connection OK" : "Connection failed"}: {tried.says}</span
                  >
                {/if}
              </td>
              <td class="whitespace-nowrap">
                {#if row.kind === "webhook" && session.may("administrator")}
                  <button
                    class="quiet"
                    disabled={trying === row.id}
                    aria-label="Try it: {row.name}"
                    onclick={() => attempt(row)}>{trying === row.id ? "Testing…" : "Test"}</button
                  >
                  <button class="quiet" aria-label="Change {row.name}" onclick={() => (changing = row)}
                    >Edit</button
                  >
                {/if}
                {#if session.may("administrator")}<RemoveButton
                    name={row.name}
                    remove={() => remove(row)}
                  />{/if}
              </td>
            </tr>
          {/each}
        </tbody>
      </table>
    </div>
  {/if}
  <Reserved role="administrator" what="add and change destinations">
    {#key changing}
      <DestinationForm row={changing} {keep} leave={() => (changing = null)} />
    {/key}
  </Reserved>
{:else}<Waiting problem={destinations.problem} retry={() => destinations.reload()} />{/if}
