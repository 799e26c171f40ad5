<script lang="ts">
  import type { Schemas } from "../lib/api/client";
  import type { Node } from "../audiences/definition";
  import { number, percent } from "../lib/format";
  import { peopleOf } from "../lib/groups";
  import { workspace } from "../lib/workspace.svelte";
  import AsAudience from "../audiences/AsAudience.svelte";
  import Downloads from "../ui/Downloads.svelte";
  import StateMark from "./StateMark.svelte";

  /** Where dormant people came from, and for how long they have been quiet. */
  let { base }: { base: Schemas["StatesPicture"] } = $props();

  const policy = $derived(workspace.policy);
  const total = $derived(base.dormant.spans.reduce((sum, span) => sum + span.people, 0));
  const ORIGINS = [
    ["new", "were new"],
    ["active", "were active"],
    ["returned", "had come back for a single day"],
  ] as const;

  function cameFrom(origin: (typeof ORIGINS)[number][0]): Node[] {
    const dormant = { is: ["dormant" as const], ...workspace.policyClause };
    const back: Node = { lifecycle: { ...dormant, from: ["new", "active"], returned: true } };
    return origin === "returned" ? [back] : [{ lifecycle: { ...dormant, from: [origin] } }, { not: back }];
  }

  function quiet(from: number, to: number): Node[] {
    const dormant = { is: ["dormant" as const], ...workspace.policyClause };
    const since = from - policy!.active_within;
    const until = to + 1 - policy!.active_within;
    const more: Node[] =
      to + 1 < policy!.churned_after
        ? [{ not: { lifecycle: { ...dormant, for_at_least_days: until } } }]
        : [];
    return [{ lifecycle: since > 0 ? { ...dormant, for_at_least_days: since } : dormant }, ...more];
  }

  const rows = $derived([
    ...ORIGINS.map(([origin]) => ({
      by: "came from",
      value: origin as string,
      people: base.dormant.origins[origin],
    })),
    ...base.dormant.spans.map((span) => ({
      by: "quiet days",
      value: `${span.from} to ${span.to}`,
      people: span.people,
    })),
  ]);
</script>

{#if policy && total > 0}
  <section class="mt-7">
    <div class="flex flex-wrap items-baseline gap-x-4">
      <h2>The dormant ones</h2>
      <Downloads name="dormant" {rows} />
    </div>
    <div class="mt-1 grid gap-x-12 gap-y-4 md:grid-cols-2">
      <table class="figures" aria-label="Dormant people by where they came from">
        <thead
          ><tr
            ><th>The day before they went dormant they</th><th class="number">People</th><th class="number"
              >Share</th
            ><th><span class="sr-only">Keep</span></th></tr
          ></thead
        >
        <tbody>
          {#each ORIGINS as [origin, name] (origin)}
            <tr>
              <td
                ><span class="inline-flex align-middle"
                  ><StateMark state={origin === "returned" ? "active" : origin} label={false} /></span
                >
                <span class="ml-1">{name}</span></td
              >
              <td class="number font-semibold"
                ><a href={peopleOf(cameFrom(origin))}>{number(base.dormant.origins[origin])}</a></td
              >
              <td class="number">{percent(base.dormant.origins[origin] / total)}</td>
              <td><AsAudience name="Dormant who {name}" clauses={cameFrom(origin)} /></td>
            </tr>
          {/each}
        </tbody>
      </table>
      <table class="figures" aria-label="Dormant people by how long they have been quiet">
        <thead
          ><tr
            ><th>Quiet for</th><th class="number">People</th><th class="number">Share</th><th
              ><span class="sr-only">Keep</span></th
            ></tr
          ></thead
        >
        <tbody>
          {#each base.dormant.spans as span (span.from)}
            <tr>
              <td>{span.from === span.to ? span.from : `${span.from} to ${span.to}`} days</td>
              <td class="number font-semibold"
                ><a href={peopleOf(quiet(span.from, span.to))}>{number(span.people)}</a></td
              >
              <td class="number">{percent(span.people / total)}</td>
              <td
                ><AsAudience
                  name="Quiet for {span.from} to {span.to} days"
                  clauses={quiet(span.from, span.to)}
                /></td
              >
            </tr>
          {/each}
        </tbody>
      </table>
    </div>
  </section>
{/if}
