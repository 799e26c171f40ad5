<script lang="ts">
  import { Popover } from "@skeletonlabs/skeleton-svelte";
  import { untrack } from "svelte";
  import { problemOf, type Problem, type Schemas } from "../api/client";
  import { number } from "../format";
  import { said } from "../toasts.svelte";
  import { workspace } from "../workspace.svelte";
  import StateMark from "./StateMark.svelte";

  let { policy }: { policy: Schemas["Policy"] } = $props();

  let open = $state(false);
  let draft = $state(untrack(() => structuredClone(policy)));
  let problem = $state<Problem | null>(null);

  const DAYS = [
    ["new_for", "new", "for", "days after the first activity"],
    ["active_within", "dormant", "from", "quiet days on"],
    ["churned_after", "churned", "from", "quiet days on"],
  ] as const;

  function opened(now: boolean) {
    open = now;
    if (now) {
      draft = structuredClone(policy);
      problem = null;
    }
  }

  async function save(event: SubmitEvent) {
    event.preventDefault();
    const before = policy;
    try {
      await workspace.changePolicy(draft);
      open = false;
      said("The policy has been changed", () => void workspace.changePolicy(before));
    } catch (error) {
      problem = problemOf(error);
    }
  }

  function toggle(name: string, on: boolean) {
    draft.activity = on ? [...draft.activity, name] : draft.activity.filter((other) => other !== name);
  }
</script>

<Popover {open} onOpenChange={(details) => opened(details.open)}>
  <Popover.Trigger
    class="cursor-pointer whitespace-nowrap underline decoration-(--ink-state) decoration-2 underline-offset-4"
  >
    new {policy.new_for} · dormant {policy.active_within} · churned {policy.churned_after} days
  </Popover.Trigger>
  <Popover.Positioner class="z-40">
    <Popover.Content class="panel max-h-[80vh] w-[26rem] overflow-auto">
      <Popover.Title class="mb-2 font-semibold">Lifecycle policy</Popover.Title>
      <form onsubmit={save}>
        {#each DAYS as [key, state, before, after] (key)}
          <label class="mb-2 flex items-center gap-2">
            <span class="w-24"><StateMark {state} /></span>
            {before}
            <input type="number" class="w-20 text-right" bind:value={draft[key]} required />
            <span class="small">{after}</span>
          </label>
        {/each}
        <fieldset class="mt-4">
          <legend class="small mb-1 font-semibold">What counts as activity</legend>
          <div class="max-h-48 overflow-auto">
            {#each workspace.catalogue?.event_types ?? [] as type (type.id)}
              <label class="flex items-center gap-2 py-0.5">
                <input
                  type="checkbox"
                  checked={draft.activity.includes(type.name)}
                  onchange={(event) => toggle(type.name, event.currentTarget.checked)}
                />
                <span class="flex-1">{type.name}</span>
                <span class="soft small">{number(type.count)}</span>
              </label>
            {/each}
          </div>
        </fieldset>
        {#if problem}
          <div role="alert" class="mt-3 border-l-4 border-(--alarm) pl-3">
            {#each problem.errors as fault (fault.place)}<p>{fault.place}: {fault.message}</p>
            {:else}<p>{problem.detail}</p>{/each}
          </div>
        {/if}
        <div class="mt-4 flex gap-2">
          <button class="act" type="submit">Change the policy</button>
          <button class="quiet" type="button" onclick={() => (open = false)}>Cancel</button>
        </div>
        <p class="soft small mt-3">
          States are recomputed from history, so the past changes with the policy.
        </p>
      </form>
    </Popover.Content>
  </Popover.Positioner>
</Popover>
