<script lang="ts">
  import { session } from "../lib/session.svelte";
  import WorkspaceList from "../shell/WorkspaceList.svelte";

  /** For somebody who is signed in, and has nothing to do with this workspace. */
  const all = $derived(session.account?.workspaces ?? []);
</script>

<main id="main" class="mx-auto w-full max-w-3xl px-6 pt-16 pb-16">
  <h1>You do not have access to this workspace</h1>
  <p class="mt-2">
    You are signed in as {session.account?.email}. Ask one of its administrators for access.
  </p>
  {#if all.length}
    <p class="mt-4">Your workspaces:</p>
    <WorkspaceList />
  {/if}
  <button class="quiet mt-4" onclick={() => session.leave()}>Sign out</button>
</main>
