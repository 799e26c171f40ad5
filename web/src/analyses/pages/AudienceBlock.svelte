<script lang="ts">
  import { answer, api, type Schemas } from "../../lib/api/client";
  import { number, percent } from "../../lib/format";
  import { peopleOf } from "../../lib/groups";
  import { Live } from "../../lib/live.svelte";
  import { workspace } from "../../lib/workspace.svelte";
  import { address } from "../../lib/address.svelte";
  import Waiting from "../../ui/Waiting.svelte";

  /** How many people an audience has, on a page. */
  let { audience }: { audience: Schemas["AudienceRow"] } = $props();

  const definition = $derived({ audience: { id: audience.id } });
  const found = new Live((signal) =>
    answer(api.POST("/audiences/preview", { body: { definition, ...workspace.dates }, signal })),
  );
</script>

<h3 class="font-semibold"><a href={address.to(`/audiences/${audience.id}`)}>{audience.name}</a></h3>
{#if found.data && !found.problem}
  <p class="mt-1 font-serif text-[2.1rem] leading-tight">
    <a class="no-underline" href={peopleOf([definition])}>{number(found.data.size)}</a>
    <span class="text-[1.1rem]">{found.data.size === 1 ? "person" : "people"}</span>
  </p>
  <p class="soft small">
    {audience.sentence}{audience.sentence.endsWith(".") ? "" : "."}
    {#if found.data.base}{percent(found.data.size / found.data.base)} of all people.{/if}
  </p>
{:else}<Waiting of={found} />{/if}
