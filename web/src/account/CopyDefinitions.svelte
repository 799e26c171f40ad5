<script lang="ts">
  import { answer, api, problemOf, type Problem } from "../lib/api/client";
  import { session } from "../lib/session.svelte";
  import Waiting from "../ui/Waiting.svelte";

  /** Takes audiences, rule sets and groups over from another workspace, after showing what that changes. */
  type Done = { kind: string; name: string; what: string; differences: string[] };
  const KINDS: Record<string, string> = { audience: "Audience", rule_set: "Rule set", grouping: "Groups" };
  const others = $derived(
    (session.account?.workspaces ?? []).filter((one) => !one.here && one.role !== "viewer"),
  );
  let from = $state("");
  let would = $state.raw<Done[] | null>(null);
  let done = $state.raw<string | null>(null);
  let problem = $state.raw<Problem | null>(null);
  const different = $derived(would?.filter((one) => one.what !== "same") ?? []);

  async function copy(check: boolean) {
    problem = null;
    done = null;
    try {
      const body = { from: from || others[0]!.name, check };
      const told = await answer(api.POST("/workspace/definitions", { body }));
      would = check ? told.definitions : null;
      if (!check) done = "Definitions copied.";
    } catch (error) {
      would = null;
      problem = problemOf(error);
    }
  }
</script>

{#if others.length}
  <section class="mt-8" data-testid="copying">
    <h2>Copy definitions from another workspace</h2>
    <p class="mt-1 max-w-3xl">
      Copies shared audiences, rule sets and custom groups into this workspace. Items with the same name are
      updated. No people or events are copied.
    </p>
    <div class="mt-3 flex flex-wrap items-end gap-3">
      <label class="field"
        >From <select
          value={from || others[0]!.name}
          onchange={(event) => {
            from = event.currentTarget.value;
            would = null;
          }}
          >{#each others as one (one.name)}<option value={one.name}>{one.title}</option>{/each}</select
        ></label
      >
      <button class="quiet" onclick={() => copy(true)}>Preview changes</button>
      {#if different.length}<button class="act" onclick={() => copy(false)}>Copy definitions</button>{/if}
    </div>
    {#if problem}<div class="mt-3"><Waiting {problem} /></div>{/if}
    {#if done}<p class="mt-3" role="status">{done}</p>{/if}
    {#if would}
      <p class="mt-3" role="status">
        {different.length
          ? `${different.length} of ${would.length} would change:`
          : "Everything is up to date."}
      </p>
      <ul class="mt-1 max-w-3xl">
        {#each different as one (`${one.kind} ${one.name}`)}
          <li class="py-1">
            {one.what === "new" ? "New" : "Changed"}: {KINDS[one.kind]} “{one.name}”
            {#each one.differences as difference (difference)}
              <span class="soft small block pl-4">{difference}</span>
            {/each}
          </li>
        {/each}
      </ul>
    {/if}
  </section>
{/if}
