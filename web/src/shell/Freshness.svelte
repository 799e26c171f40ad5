<script lang="ts">
  import { duration } from "../lib/format";
  import { workspace } from "../lib/workspace.svelte";

  /** How old the newest data is, and whether everything received is in the answers yet. */
  const data = $derived(workspace.heartbeat?.data);
  const age = $derived(
    data?.newest_received_at ? Math.max(0, (Date.now() - Date.parse(data.newest_received_at)) / 1000) : null,
  );
</script>

{#if data && age !== null}
  <span
    class="soft small hidden whitespace-nowrap sm:inline"
    data-testid="freshness"
    title="The newest event was received at {data.newest_received_at}. {data.up_to_date
      ? 'Everything received is in the answers.'
      : 'More has been received and will be in the answers in a few seconds.'}"
    >data {duration(age)} old{data.up_to_date ? "" : ", catching up"}</span
  >
{/if}
