<script lang="ts">
  import { address } from "../lib/address.svelte";
  import { answer, api, type Schemas } from "../lib/api/client";
  import Waiting from "../lib/components/Waiting.svelte";
  import { moment, number } from "../lib/format";
  import { Resource } from "../lib/resource.svelte";
  import { said } from "../lib/toasts.svelte";
  import { workspace } from "../lib/workspace.svelte";

  const list = new Resource((signal) => {
    void workspace.policy;
    return answer(api.GET("/audiences", { params: { query: { as_of: workspace.asOf } }, signal }));
  });

  async function remove(row: Schemas["AudienceRow"]) {
    const params = { path: { id: row.id } };
    await answer(api.DELETE("/audiences/{id}", { params }));
    await list.reload();
    said(`“${row.name}” has been deleted`, async () => {
      await answer(api.POST("/audiences/{id}/restore", { params }));
      await list.reload();
    });
  }
</script>

<div class="flex items-center gap-4">
  <h1>Audiences</h1>
  <a class="act" href={address.to("/audiences/new")}>Write an audience</a>
</div>
{#if list.data}
  {#if list.data.audiences.length === 0}
    <p class="says mt-6">No audience has been written yet.</p>
    <p class="mt-2 max-w-xl">
      An audience is a sentence about people, such as “People who ended a ride at least 3 times in the last 30
      days”. Its members are always computed.
    </p>
  {:else}
    <div class="mt-4 overflow-x-auto">
      <table class="figures">
        <thead>
          <tr>
            <th>Audience</th>
            <th class="number">People</th>
            <th class="number">Last changed</th>
            <th><span class="sr-only">Actions</span></th>
          </tr>
        </thead>
        <tbody>
          {#each list.data.audiences as row (row.id)}
            <tr>
              <td class="py-2!">
                <a class="font-semibold" href={address.to(`/audiences/${row.id}`)}>{row.name}</a>
                <p class="soft font-serif text-[0.95rem] leading-6">{row.sentence}</p>
                {#if row.fault}<p class="small text-(--alarm)">{row.fault}</p>{/if}
              </td>
              <td class="number py-2! text-[1.05rem] font-semibold">
                {#if row.size === null}–{:else}
                  <a href={address.to("/people", { audience: String(row.id) })}>{number(row.size)}</a>
                {/if}
              </td>
              <td class="number soft small py-2!">{moment(row.updated_at, workspace.info!.time_zone)}</td>
              <td class="number py-2!">
                <button class="quiet" aria-label="Delete {row.name}" onclick={() => remove(row)}
                  >Delete</button
                >
              </td>
            </tr>
          {/each}
        </tbody>
      </table>
    </div>
  {/if}
{:else}
  <Waiting problem={list.problem} retry={() => list.reload()} />
{/if}
