<script lang="ts">
  import { duration, moment } from "../lib/format";
  import { workspace } from "../lib/workspace.svelte";

  /** How old the newest data is, and whether everything received is in the answers yet. */
  const data = $derived(workspace.heartbeat?.data);
  const age = $derived(
    data?.newest_received_at ? Math.max(0, (Date.now() - Date.parse(data.newest_received_at)) / 1000) : null,
  );
  /** Older than this it is likely that something has stopped sending; the demo is made once. */
  const STALE = 2 * 86_400;
  const stale = $derived(age !== null && age > STALE && !workspace.heartbeat?.demo);
</script>

{#if data && age !== null}
  <span
    class="soft small hidden whitespace-nowrap sm:inline"
    data-testid="freshness"
    title="The newest event was received on {moment(
      data.newest_received_at!,
      workspace.info!.time_zone,
    )}. {data.up_to_date
      ? 'All received events are included.'
      : 'Newer events will be included in a few seconds.'}"
    >{workspace.heartbeat?.demo ? "demo data" : "data"}
    <span class={stale ? "font-semibold text-(--alarm)" : ""}>{duration(age)} old</span>{data.up_to_date
      ? ""
      : ", updating"}</span
  >
{/if}
