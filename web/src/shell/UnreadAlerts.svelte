<script lang="ts">
  import { address } from "../lib/address.svelte";
  import { plural } from "../lib/format";
  import { workspace } from "../lib/workspace.svelte";

  /** How many alerts have not been read yet. */
  const generation = $derived(workspace.info && String(workspace.info.generation));
  $effect(() => {
    if (generation !== null) void workspace.countAlerts();
  });
</script>

{#if workspace.unread}
  <a href={address.to("/lifecycle/alerts")} class="font-semibold whitespace-nowrap text-(--accent)"
    >{plural(workspace.unread, "alert")}</a
  >
{/if}
