<script lang="ts">
  import { address } from "../lib/address.svelte";
  import { session } from "../lib/session.svelte";
  import { theme } from "../lib/theme.svelte";
  import { workspace } from "../lib/workspace.svelte";
  import AsOf from "./AsOf.svelte";
  import Freshness from "./Freshness.svelte";
  import RuleSetInUse from "../lifecycle/RuleSetInUse.svelte";
  import UnreadAlerts from "./UnreadAlerts.svelte";
  import WorkspaceSwitch from "./WorkspaceSwitch.svelte";

  let { place }: { place: string } = $props();

  /** Whether the places are shown, where they do not all fit on a line. */
  let unfolded = $state(false);
  const PLACES = [
    ["lifecycle", "/", "Lifecycle"],
    ["people", "/people", "People"],
    ["audiences", "/audiences", "Audiences"],
    ["analyses", "/analyses", "Analyses"],
    ["exports", "/exports", "Exports"],
    ["data", "/data", "Data"],
  ] as const;
</script>

<header class="border-b border-(--rule-strong)">
  <a
    href="#main"
    onclick={(event) => {
      event.preventDefault();
      document.getElementById("main")?.focus();
    }}
    class="act sr-only focus:not-sr-only focus:absolute focus:left-2 focus:top-2 focus:z-50"
    >Skip to content</a
  >
  <div class="mx-auto flex max-w-[1200px] flex-wrap items-baseline gap-x-6 gap-y-1 px-4 pt-3 sm:px-6">
    <a href={address.to("/")} class="says pb-2 text-[1.35rem]! font-semibold no-underline">Estrel</a>
    <WorkspaceSwitch />
    <button
      class="quiet sm:hidden"
      aria-expanded={unfolded}
      aria-controls="places"
      onclick={() => (unfolded = !unfolded)}
      >{PLACES.find(([key]) => key === place)?.[2] ?? "Account"} ▾</button
    >
    <nav
      id="places"
      aria-label="Main navigation"
      class="order-last w-full flex-col gap-x-5 sm:order-none sm:flex sm:w-auto sm:flex-row {unfolded
        ? 'flex'
        : 'hidden'}"
    >
      {#each PLACES as [key, path, name] (key)}
        <a
          href={address.to(path)}
          onclick={() => (unfolded = false)}
          aria-current={place === key ? "page" : undefined}
          class="border-b-[3px] border-transparent pb-2 no-underline aria-[current=page]:border-(--ink) aria-[current=page]:font-semibold"
          >{name}</a
        >
      {/each}
    </nav>
    <!-- In a narrow window a row of its own from the beginning, since what stands in it arrives bit by bit. -->
    <div class="ml-auto flex w-full flex-wrap items-baseline justify-end gap-x-4 gap-y-1 pb-2 sm:w-auto">
      {#if workspace.info?.ready}
        <Freshness />
        <UnreadAlerts />
        <AsOf />
        {#if workspace.ruleSet}<RuleSetInUse ruleSet={workspace.ruleSet} />{/if}
      {/if}
      <a
        class="small no-underline aria-[current=page]:font-semibold"
        href={address.to("/account")}
        aria-current={place === "account" ? "page" : undefined}
        title="{session.account?.email}, {session.account?.role}">{session.account?.email.split("@")[0]}</a
      >
      <a
        class="font-semibold no-underline"
        href={address.to("/help")}
        aria-current={place === "help" ? "page" : undefined}
        aria-label="Help"
        title="Glossary, guides and keyboard shortcuts">?</a
      >
      <button
        class="cursor-pointer"
        onclick={() => theme.toggle()}
        aria-label={theme.mode === "dark" ? "Use the light theme" : "Use the dark theme"}
        title={theme.mode === "dark" ? "Light theme" : "Dark theme"}
      >
        <svg width="16" height="16" viewBox="0 0 16 16" aria-hidden="true" class="inline align-[-2px]">
          <circle cx="8" cy="8" r="6.5" fill="none" stroke="currentColor" stroke-width="1.4" />
          <path d="M8 1.5a6.5 6.5 0 0 1 0 13z" fill="currentColor" />
        </svg>
      </button>
    </div>
  </div>
</header>
