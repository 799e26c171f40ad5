<script lang="ts">
  import Panel from "../ui/Panel.svelte";
  import WorkspaceList from "./WorkspaceList.svelte";
  import { session } from "../lib/session.svelte";

  /** Which workspace this is, and the others one may go to; nothing where there is but one. */
  let open = $state(false);
  const all = $derived(session.account?.workspaces ?? []);
  const here = $derived(all.find((one) => one.here));
</script>

{#if all.length > 1 && here}
  <Panel
    bind:open
    below
    button="cursor-pointer whitespace-nowrap max-w-48 truncate border border-(--rule-strong) px-2 pb-0.5"
    panel="w-72"
    label="Workspace {here.title}"
    title="Workspaces"
  >
    {#snippet trigger()}{here.title} <span aria-hidden="true">▾</span>{/snippet}
    <WorkspaceList />
  </Panel>
{/if}
