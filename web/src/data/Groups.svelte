<script lang="ts">
  import SeasonsForm from "../groupings/SeasonsForm.svelte";
  import { groupings, seasonsOf, type Grouping } from "../groupings/groupings.svelte";
  import { address } from "../lib/address.svelte";
  import { day } from "../lib/format";
  import { Form } from "../lib/form.svelte";
  import { session } from "../lib/session.svelte";

  /** Groups of one's own by which people are told apart everywhere. */
  let writing = $state(Form.kept("seasons-new"));
  let changed = $state<Grouping | null>(null);

  const days = (from: string | null, to: string | null) =>
    from && to ? `${day(from)} to ${day(to)}` : from ? `from ${day(from)} on` : `up to ${day(to)}`;
</script>

<p class="says mt-3 max-w-[46rem]">
  Custom groups can be used in any split: seasons defined here, or deciles saved from <a
    href={address.to("/analyses/chance")}>Propensity</a
  >.
</p>
{#if session.may("analyst") && !writing && !changed}
  <p class="mt-3"><button class="quiet" onclick={() => (writing = true)}>Add seasons</button></p>
{/if}
{#if writing || changed}
  {#key changed?.id}
    <SeasonsForm
      grouping={changed}
      close={() => {
        writing = false;
        changed = null;
      }}
    />
  {/key}
{/if}
{#each groupings.list as grouping (grouping.id)}
  <section class="mt-6 max-w-[46rem]" aria-label={grouping.name}>
    <h2 class="flex flex-wrap items-baseline gap-4">
      {grouping.name}
      {#if session.may("analyst")}
        <span class="small flex gap-3 font-sans font-normal">
          {#if seasonsOf(grouping)}<button
              class="cursor-pointer underline"
              onclick={() => (changed = grouping)}>Edit</button
            >{/if}
          <button class="cursor-pointer underline" onclick={() => groupings.remove(grouping)}>Delete</button>
        </span>
      {/if}
    </h2>
    <table class="figures mt-1">
      <tbody>
        {#each grouping.groups as { name, from, to, sentence } (name)}
          <tr
            ><td class="pr-6 whitespace-nowrap">{name}</td><td class="soft"
              >{from || to ? days(from, to) : sentence}</td
            ></tr
          >
        {/each}
      </tbody>
    </table>
    <p class="small mt-1">
      <a href={address.to("/analyses/breakdown", { by: `grouping:${grouping.id}` })}>Group sizes</a>
    </p>
  </section>
{:else}
  {#if !writing}<p class="soft mt-4">No custom groups yet.</p>{/if}
{/each}
