<script lang="ts">
  import { Toast } from "@skeletonlabs/skeleton-svelte";
  import { onMount } from "svelte";
  import { address } from "./lib/address.svelte";
  import Shortcuts from "./lib/components/Shortcuts.svelte";
  import Textures from "./lib/components/Textures.svelte";
  import TrayBar from "./lib/components/TrayBar.svelte";
  import TopBar from "./lib/components/TopBar.svelte";
  import Waiting from "./lib/components/Waiting.svelte";
  import { toaster } from "./lib/toasts.svelte";
  import { tray } from "./lib/tray.svelte";
  import { workspace } from "./lib/workspace.svelte";
  import { session } from "./lib/session.svelte";
  import Account from "./places/Account.svelte";
  import SignIn from "./places/account/SignIn.svelte";
  import AudienceEditor from "./places/AudienceEditor.svelte";
  import Audiences from "./places/Audiences.svelte";
  import Base from "./places/Base.svelte";
  import Data from "./places/Data.svelte";
  import Empty from "./places/Empty.svelte";
  import Exports from "./places/Exports.svelte";
  import People from "./places/People.svelte";
  import Person from "./places/Person.svelte";
  import Studies from "./places/Studies.svelte";

  const NAMES: Record<string, string> = {
    people: "People",
    audiences: "Audiences",
    studies: "Studies",
    exports: "Exports",
    data: "Data",
    account: "Account",
  };
  const parts = $derived(address.path.split("/").filter(Boolean));
  const place = $derived(parts[0] ?? "base");

  onMount(() => {
    tray.restore();
    void session.load();
  });
  const inside = $derived(session.account !== null);
  $effect(() => {
    if (!inside) return;
    void workspace.refresh();
    return workspace.watch();
  });
  $effect(() => {
    document.title = `${NAMES[place] ?? "Base"} · Estrel`;
  });
</script>

<svelte:document onclick={(event) => address.follow(event)} />

<Textures />
<Shortcuts />
{#if place === "link" && session.known}
  <SignIn link={parts[1] ?? ""} />
{:else if session.known && !inside}
  <SignIn />
{:else if !inside}
  <main id="main" class="px-6 pt-24"><Waiting problem={session.problem} retry={() => session.load()} /></main>
{:else}
  <div class="flex min-h-screen flex-col">
    <TopBar {place} />
    <main id="main" class="mx-auto w-full max-w-[1200px] flex-1 px-6 pt-5 pb-16">
      {#if workspace.info === null}
        <Waiting problem={workspace.problem} retry={() => workspace.refresh()} />
      {:else if place === "account"}
        <Account part={parts[1] ?? ""} />
      {:else if place === "data"}
        <Data part={parts[1] ?? ""} />
      {:else if workspace.info.rebuilding}
        <p class="says mt-6" role="status">
          The ledger is being built anew from the events in store. This page goes on by itself as soon as it
          is there.
        </p>
      {:else if !workspace.info.ready}
        <Empty />
      {:else if place === "base"}
        <Base part={parts[1] ?? ""} />
      {:else if place === "people" && parts[1]}
        {#key parts[1]}<Person id={Number(parts[1])} />{/key}
      {:else if place === "people"}
        <People />
      {:else if place === "audiences" && parts[1]}
        {#key parts[1]}<AudienceEditor id={parts[1] === "new" ? null : Number(parts[1])} />{/key}
      {:else if place === "audiences"}
        <Audiences />
      {:else if place === "studies"}
        <Studies study={parts[1] ?? "overlap"} />
      {:else if place === "exports"}
        <Exports part={parts[1] ?? ""} id={parts[2] ?? ""} />
      {:else}
        <h1>There is no such page</h1>
        <p class="mt-2">Go to <a href={address.to("/")}>the base</a>.</p>
      {/if}
    </main>
    {#if workspace.info?.ready}<TrayBar />{/if}
  </div>
{/if}

<Toast.Group {toaster}>
  {#snippet children(toast)}
    <Toast {toast} class="panel flex items-center gap-4 py-2">
      <Toast.Message>
        <Toast.Title>{toast.title}</Toast.Title>
      </Toast.Message>
      {#if toast.action}<Toast.ActionTrigger class="quiet">{toast.action.label}</Toast.ActionTrigger>{/if}
      <Toast.CloseTrigger class="quiet" aria-label="Close this message">×</Toast.CloseTrigger>
    </Toast>
  {/snippet}
</Toast.Group>
