<script lang="ts">
  import Parts from "../ui/Parts.svelte";
  import { session } from "../lib/session.svelte";
  import Accounts from "./Accounts.svelte";
  import Log from "./Log.svelte";
  import Own from "./Own.svelte";
  import Workspaces from "./Workspaces.svelte";

  /** One's own account; for administrators also everybody's, the workspaces, and the log. */
  let { part }: { part: string } = $props();

  const OWN = [["", "My account"]] as const;
  const ALL = [...OWN, ["all", "Users"], ["workspaces", "Workspaces"], ["log", "Audit log"]] as const;
  const administers = $derived(session.may("administrator"));
</script>

<Parts name="Account" path="/account" parts={administers ? ALL : OWN} {part} />
{#if part === ""}
  <Own />
{:else if !administers}
  <p class="mt-6">Only administrators can see this page.</p>
{:else if part === "all"}
  <Accounts />
{:else if part === "workspaces"}
  <Workspaces />
{:else if part === "log"}
  <Log />
{:else}
  <p class="mt-6">Page not found.</p>
{/if}
