<script lang="ts">
  import { onMount } from "svelte";
  import { address } from "../lib/address.svelte";
  import { plural } from "../lib/format";
  import { workspace } from "../lib/workspace.svelte";

  /** How many notices have not been read yet. */
  onMount(() => void workspace.countNotices());
  $effect(() => {
    void workspace.info?.generation;
    void workspace.countNotices();
  });
</script>

{#if workspace.unread}
  <a href={address.to("/base/notices")} class="font-semibold whitespace-nowrap text-(--accent)"
    >{plural(workspace.unread, "notice")}</a
  >
{/if}
