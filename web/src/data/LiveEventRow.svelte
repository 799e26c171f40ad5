<script lang="ts">
  import { attributeField, propertyField } from "../lib/names";
  import { address } from "../lib/address.svelte";
  import type { Schemas } from "../lib/api/client";
  import { clock, day, duration } from "../lib/format";
  import { workspace } from "../lib/workspace.svelte";
  import Facts from "../ui/Facts.svelte";
  import { FACTS, receivedName } from "./received";

  /** One thing received: stored, or rejected with the reason and the original. */
  let { row }: { row: Schemas["LiveEvent"] } = $props();

  const zone = $derived(workspace.info!.time_zone);
  const late = $derived(
    row.occurred_at ? Math.round((Date.parse(row.received_at) - Date.parse(row.occurred_at)) / 1000) : null,
  );
</script>

<tr class="narrow-lines" data-outcome={row.outcome}>
  <td class="whitespace-nowrap">
    <span title={row.received_at}>{day(row.received_at)}, {clock(row.received_at, zone)}</span>
    {#if late !== null && late > 60}<span class="soft small block leading-5">{duration(late)} late</span>{/if}
  </td>
  <td>{row.source ?? "–"}</td>
  <td class="font-semibold" title={row.type}>{receivedName(row.type) || "–"}</td>
  <td class="max-w-[16rem] break-all">
    {#if row.profile_id}<a href={address.to(`/people/${row.profile_id}`)}>{row.subject ?? row.profile_id}</a>
    {:else}{row.subject || "–"}{/if}
  </td>
  <td class="small leading-6">
    {#if row.outcome === "refused"}
      <span class="text-(--alarm)">Rejected: {row.reason}</span>
      {#if row.payload}
        <details>
          <summary class="cursor-pointer">Original</summary>
          <pre class="max-h-48 overflow-auto whitespace-pre-wrap break-all">{row.payload}</pre>
        </details>
      {/if}
    {/if}
    {row.told}
    <Facts
      facts={row.contents}
      field={(name) => (row.type in FACTS ? attributeField(name) : propertyField(name, row.type))}
    />
  </td>
</tr>
