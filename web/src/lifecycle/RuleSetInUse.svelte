<script lang="ts">
  import Panel from "../ui/Panel.svelte";
  import { address } from "../lib/address.svelte";
  import type { Schemas } from "../lib/api/client";
  import { workspace } from "../lib/workspace.svelte";

  /** The rule set of what is on screen; another one is a click away. */
  let { ruleSet }: { ruleSet: Schemas["RuleSet"] } = $props();

  let open = $state(false);

  function choose(row: Schemas["RuleSet"]) {
    open = false;
    address.go(address.with({ rules: row.default ? null : String(row.id) }));
  }
</script>

<Panel
  bind:open
  hint="Lifecycle rules: new for {ruleSet.new_for} days, dormant after {ruleSet.active_within}, churned after {ruleSet.churned_after}"
  button="inline-block max-w-44 cursor-pointer truncate align-bottom whitespace-nowrap underline decoration-(--ink-state) decoration-2 underline-offset-4"
  panel="max-h-[80vh] w-[26rem] overflow-auto"
  title="Lifecycle rules"
>
  {#snippet trigger()}
    <span class="sr-only">Lifecycle rules: </span>{ruleSet.id === null ? "built-in defaults" : ruleSet.name}
  {/snippet}
  <ul>
    {#each workspace.ruleSets as row (row.id)}
      <li class="border-b border-(--rule)">
        <button
          class="flex w-full cursor-pointer flex-wrap gap-x-3 py-1.5 text-left hover:text-(--accent)"
          aria-current={row === ruleSet ? "true" : undefined}
          onclick={() => choose(row)}
        >
          <span class={row === ruleSet ? "font-semibold" : ""}>{row.name}</span>
          <span class="soft small"
            >new {row.new_for} · dormant {row.active_within} · churned {row.churned_after}{row.default
              ? " · default"
              : ""}</span
          >
        </button>
      </li>
    {/each}
  </ul>
  <div class="mt-3 flex gap-2">
    <a
      class="quiet"
      href={address.to("/lifecycle/rules", { edit: ruleSet.id === null ? "first" : String(ruleSet.id) })}
      onclick={() => (open = false)}>Edit rules…</a
    >
    <a class="quiet" href={address.to("/lifecycle/rules")} onclick={() => (open = false)}>All rule sets</a>
  </div>
</Panel>
