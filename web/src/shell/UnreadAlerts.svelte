<script lang="ts">
  import { onMount } from "svelte";
  import { address } from "../lib/address.svelte";
  import { plural } from "../lib/format";
  import { workspace } from "../lib/workspace.svelte";

  /** How many alerts have not been read yet. */
  onMount(() => void workspace.countAlerts());
  $effect(() => {
    void workspace.info?.generation;
    void workspace.countAlerts();
  });
</script>

{#if workspace.unread}
  <a href={address.to("/lifecycle/alerts")} class="font-semibold whitespace-nowrap text-(--accent)"
    >{plural(workspace.unread, "alert")}</a
  >
{/if}
