<script lang="ts">
  import type { Schemas } from "../lib/api/client";
  import { Asked } from "../lib/asked.svelte";
  import { number, percent, signed } from "../lib/format";
  import { peopleOf } from "../lib/groups";
  import { SEEN_STATES, type State } from "./states";
  import { workspace } from "../lib/workspace.svelte";
  import Downloads from "../ui/Downloads.svelte";
  import StateMark from "./StateMark.svelte";
  import Waiting from "../ui/Waiting.svelte";

  /** What rules would make of everybody: people per state now against after, and from which state to which. */
  let { rules, table = true }: { rules: Schemas["LifecycleRules"]; table?: boolean } = $props();

  const tried = $derived({
    activity: rules.activity,
    new_for: rules.new_for,
    active_within: rules.active_within,
    churned_after: rules.churned_after,
    population: rules.population ?? null,
    channel: rules.channel ?? null,
  });
  const effect = new Asked("rules-effect", () => ({ tried }));
  const found = $derived(effect.data?.picture);

  function isState(name: string): name is State {
    return (SEEN_STATES as string[]).includes(name) || name === "unseen";
  }

  /** Somebody outside a policy is in none of its states. */
  function inState(name: string, policy: object): object {
    if (name !== "outside") return { lifecycle: { is: [name], ...policy } };
    return { not: { lifecycle: { is: ["unseen", ...SEEN_STATES], ...policy } } };
  }

  function people(before: string, after: string): string {
    const rules = { policy: { rules: found!.rules } };
    return peopleOf([inState(before, workspace.policyClause), inState(after, rules)]);
  }

  const used = $derived(
    found
      ? found.states
          .map((name, index) => ({ name, index }))
          .filter(({ index }) => found!.before[index]! + found!.after[index]! > 0)
      : [],
  );
  const total = $derived(found ? found.before.reduce((sum, count) => sum + count, 0) : 0);
</script>

{#if found && !effect.problem}
  {@const data = found}
  <div data-testid="policy-effect">
    <table class="figures w-auto!" aria-label="People in each state now and after">
      <thead
        ><tr
          ><th>State</th><th class="number">Now</th><th class="number">After</th><th class="number">Change</th
          ></tr
        ></thead
      >
      <tbody>
        {#each used as { name, index } (name)}
          <tr>
            <td
              >{#if isState(name)}<StateMark state={name} />{:else}outside the policy{/if}</td
            >
            <td class="number soft">{number(data.before[index]!)}</td>
            <td class="number font-semibold">{number(data.after[index]!)}</td>
            <td class="number">{signed(data.after[index]! - data.before[index]!)}</td>
          </tr>
        {/each}
      </tbody>
    </table>
    <p class="mt-2">
      {data.changed === 0
        ? "Nobody would change state."
        : `${number(data.changed)} people (${percent(data.changed / total)}) would change state.`}
    </p>
    {#if table && data.changed > 0}
      <div class="mt-2 overflow-x-auto">
        <table class="figures w-auto!" aria-label="Who would change state">
          <thead>
            <tr
              ><th class="font-normal!">now ↓ &nbsp; after →</th>{#each used as { name } (name)}<th
                  class="number pl-4!"
                  >{#if isState(name)}<StateMark state={name} />{:else}outside{/if}</th
                >{/each}</tr
            >
          </thead>
          <tbody>
            {#each used as before (before.name)}
              <tr>
                <th scope="row"
                  >{#if isState(before.name)}<StateMark state={before.name} />{:else}outside{/if}</th
                >
                {#each used as after (after.name)}
                  {@const count = data.table[before.index]![after.index]!}
                  <td class="number pl-4!">
                    {#if count === 0}<span class="soft">·</span>
                    {:else if before.name === after.name}<span class="soft">{number(count)}</span>
                    {:else}<a class="font-semibold" href={people(before.name, after.name)}>{number(count)}</a
                      >{/if}
                  </td>
                {/each}
              </tr>
            {/each}
          </tbody>
        </table>
      </div>
      <Downloads
        name="policy-effect"
        rows={used.flatMap((before) =>
          used.map((after) => ({
            now: before.name,
            after: after.name,
            people: data.table[before.index]![after.index]!,
          })),
        )}
      />
    {/if}
  </div>
{:else}
  <Waiting of={effect} />
{/if}
