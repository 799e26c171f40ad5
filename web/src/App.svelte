<script lang="ts">
  import { groupings } from "./groupings/groupings.svelte";
  import { notes } from "./notes/notes.svelte";
  import { onMount } from "svelte";
  import { address } from "./lib/address.svelte";
  import { base } from "./lib/base";
  import { connection } from "./lib/connection.svelte";
  import { focusPlace, keepFocus } from "./lib/focus";
  import Failed from "./ui/Failed.svelte";
  import Shortcuts from "./shell/Shortcuts.svelte";
  import Textures from "./charts/Textures.svelte";
  import ComparisonBar from "./audiences/ComparisonBar.svelte";
  import { LOAD } from "./shell/load";
  import { toaster } from "./lib/toasts.svelte";
  import TopBar from "./shell/TopBar.svelte";
  import Waiting from "./ui/Waiting.svelte";
  import { list } from "./lib/format";
  import { isWhole } from "./lib/parameters";
  import { comparison } from "./audiences/comparison.svelte";
  import { workspace } from "./lib/workspace.svelte";
  import { session } from "./lib/session.svelte";
  import Place from "./shell/Place.svelte";

  /** What is rarely or never needed once someone has signed in. */
  const load = {
    empty: () => import("./ui/Empty.svelte"),
    noRoleHere: () => import("./account/NoRoleHere.svelte"),
    own: () => import("./account/Own.svelte"),
    signIn: () => import("./account/SignIn.svelte"),
    toasts: () => import("./shell/Toasts.svelte"),
  };
  const NAMES: Record<string, string> = {
    people: "People",
    audiences: "Audiences",
    analyses: "Analyses",
    exports: "Exports",
    data: "Data",
    account: "Account",
    help: "Help",
  };
  const parts = $derived(address.path.split("/").filter(Boolean));
  const place = $derived(parts[0] ?? "lifecycle");
  /** People and audiences go by number. */
  const known = $derived(
    place === "lifecycle" ||
      (place in NAMES &&
        (!["people", "audiences"].includes(place) || !parts[1] || parts[1] === "new" || isWhole(parts[1]))),
  );

  // Going to another place, or signing in, leaves nothing that had the focus.
  let before: string | null = address.path;
  $effect(() => {
    if (session.known && !inside) before = null;
    if (!inside || address.path === before) return;
    before = address.path;
    void focusPlace();
  });

  let toasts = $state(false);
  onMount(() => {
    comparison.restore();
    void session.load();
    // After the first picture, or with the first message.
    const show = () => (toasts = true);
    const timer = setTimeout(show, 2_000);
    const ends = [keepFocus(), toaster.subscribe(show), () => clearTimeout(timer)];
    return () => ends.forEach((end) => end());
  });
  const inside = $derived(session.account !== null);
  /** Whether a second factor has to be set up before anything else. */
  const heldUp = $derived(session.account?.second_factor === "missing");
  /** Whether who is signed in has nothing to do with this workspace. */
  const outside = $derived(inside && session.account?.role === null);
  const here = $derived(session.account?.workspaces.find((one) => one.here));
  $effect(() => {
    if (!inside || heldUp || outside) return;
    void workspace.refresh();
    void notes.load();
    void groupings.load();
    return workspace.keepUp();
  });
  $effect(() => {
    document.title = [NAMES[place] ?? "Lifecycle", ...(base && here ? [here.title] : []), "Estrel"].join(
      " · ",
    );
  });
</script>

<svelte:document onclick={(event) => address.follow(event)} />

<Textures />
<Shortcuts />
{#if place === "link" && session.known}
  <Place load={load.signIn} given={{ link: parts[1] ?? "" }} />
{:else if session.known && !inside}
  <Place load={load.signIn} given={{}} />
{:else if heldUp}
  <main id="main" class="mx-auto w-full max-w-3xl px-6 pt-16 pb-16">
    <h1>Set up two-factor authentication</h1>
    <p class="mt-2">Your administrator requires it before you can continue.</p>
    <Place load={load.own} given={{}} />
  </main>
{:else if outside}
  <Place load={load.noRoleHere} given={{}} />
{:else if !inside}
  <main id="main" class="px-6 pt-24"><Waiting problem={session.problem} retry={() => session.load()} /></main>
{:else}
  <div class="flex min-h-screen flex-col">
    <TopBar {place} />
    <main
      id="main"
      tabindex="-1"
      class="mx-auto w-full max-w-[1200px] outline-none flex-1 px-4 pt-5 pb-16 sm:px-6"
    >
      {#if connection.away}
        <p class="mb-3 border-l-4 border-(--alarm) pl-3" role="status">
          No connection to the server. This page may be out of date; it reconnects automatically.
        </p>
      {/if}
      {#if address.left.length}
        <p class="mb-3 border-l-4 border-(--alarm) pl-3" role="status">
          Part of this link could not be read and was ignored: {list(address.left)}.
        </p>
      {/if}
      <svelte:boundary>
        {#if workspace.info === null}
          <Waiting problem={workspace.problem} retry={() => workspace.refresh()} />
        {:else if place === "account"}
          <Place load={LOAD.account} given={{ part: parts[1] ?? "" }} />
        {:else if place === "help"}
          {#key parts[1]}<Place load={LOAD.help} given={{ part: parts[1] ?? "" }} />{/key}
        {:else if place === "data"}
          <Place load={LOAD.data} given={{ part: parts[1] ?? "" }} />
        {:else if workspace.info.rebuilding}
          <p class="says mt-6" role="status">
            Rebuilding the data. This page loads automatically when it is ready.
          </p>
        {:else if !workspace.info.ready}
          <Place load={load.empty} given={{}} />
        {:else if place === "lifecycle"}
          <Place load={LOAD.lifecycle} given={{ part: parts[1] ?? "" }} />
        {:else if !known}
          <h1>Page not found</h1>
          <p class="mt-2">Go to <a href={address.to("/")}>Lifecycle</a>.</p>
        {:else if place === "people" && parts[1]}
          {#key parts[1]}<Place load={LOAD["people/*"]} given={{ id: Number(parts[1]) }} />{/key}
        {:else if place === "people"}
          <Place load={LOAD.people} given={{}} />
        {:else if place === "audiences" && parts[1]}
          {#key parts[1]}<Place
              load={LOAD["audiences/*"]}
              given={{ id: parts[1] === "new" ? null : Number(parts[1]) }}
            />{/key}
        {:else if place === "audiences"}
          <Place load={LOAD.audiences} given={{}} />
        {:else if place === "analyses"}
          <Place load={LOAD.analyses} given={{ name: parts[1] ?? "", id: parts[2] ?? "" }} />
        {:else}
          <Place load={LOAD.exports} given={{ part: parts[1] ?? "", id: parts[2] ?? "" }} />
        {/if}
        {#snippet failed(_error: unknown, reset: () => void)}
          <Failed what="Something went wrong on this page. Everything you saved is safe." {reset} />
        {/snippet}
      </svelte:boundary>
    </main>
    {#if workspace.info?.ready}<ComparisonBar />{/if}
  </div>
{/if}

{#if toasts}{#await load.toasts() then { default: Toasts }}<Toasts />{/await}{/if}
