<script lang="ts">
  import { apiAddress } from "../lib/base";
  import type { Schemas } from "../lib/api/client";
  import { number, plural } from "../lib/format";
  import ProgressBar from "../ui/ProgressBar.svelte";

  /** One import: what became of its rows, and its progress while it runs. */
  let { row, cancel }: { row: Schemas["Import"]; cancel: (row: Schemas["Import"]) => void } = $props();

  const share = $derived(row.bytes_total ? Math.min(100, (100 * row.bytes_done) / row.bytes_total) : 0);
  const secondsLeft = $derived(
    row.seconds && share > 0 ? Math.max(0, Math.round((row.seconds * (100 - share)) / share)) : null,
  );
  const rate = $derived(row.seconds ? row.rows_read / row.seconds : null);
  const working = $derived(row.state === "queued" || row.state === "running");
</script>

<tr data-testid="import-{row.id}" data-state={row.state}>
  <td class="min-w-40 break-all">{row.file_name}</td>
  <td>{row.kind}</td>
  <td class={row.state === "failed" ? "text-(--alarm)" : ""}>{row.state}</td>
  <td class="number">{number(row.rows_read)}</td>
  <td class="number">{number(row.stored)}</td>
  <td class="number">{number(row.already_known)}</td>
  <td class="number">
    {#if row.rejected}
      <a
        href={apiAddress(`/imports/${row.id}/rejects.csv`)}
        download
        aria-label="Download the {row.rejected} rejected rows">{number(row.rejected)}</a
      >
    {:else}0{/if}
  </td>
  <td class="number">{rate === null ? "–" : number(rate)}</td>
</tr>
{#if working || row.error || row.reasons.length}
  <tr>
    <td colspan="8" class="small pb-3!">
      {#if working}
        <div class="flex items-center gap-4">
          <ProgressBar label="Progress of {row.file_name}" percent={share} width="w-80" />
          <span
            >{Math.round(share)}%{secondsLeft === null
              ? ""
              : `, about ${plural(secondsLeft, "second")} left`}</span
          >
          <button class="quiet" onclick={() => cancel(row)}>Cancel</button>
        </div>
      {/if}
      {#if row.error}<p>{row.error}</p>{/if}
      {#each row.reasons as reason (reason.reason)}
        <p>{reason.reason} <span class="soft">{plural(reason.count, "row")}</span></p>
      {/each}
    </td>
  </tr>
{/if}
