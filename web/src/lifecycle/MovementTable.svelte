<script lang="ts">
  import { stateName } from "./states";
  import { day, number, plural, signed, ratio } from "../lib/format";
  import { peopleOf } from "../lib/groups";
  import { ALL_STATES, moved, PARTS, type MovementBetween, type Part } from "./lifecycle";
  import { workspace } from "../lib/workspace.svelte";
  import AsAudience from "../audiences/AsAudience.svelte";
  import Downloads from "../ui/Downloads.svelte";
  import StateMark from "./StateMark.svelte";

  /** Movement between states between two days; bar lengths are numbers of people, positions are pairs of states. */
  let { movement, before }: { movement: MovementBetween; before: string } = $props();

  const table = $derived(movement.table ?? []);
  const largest = $derived(
    Math.max(1, ...table.flatMap((row, from) => row.filter((_, to) => from !== to && from + to > 0))),
  );
  const names = Object.keys(PARTS) as Part[];

  function partOf(from: number, to: number): Part | null {
    const [one, other] = [ALL_STATES[from]!, ALL_STATES[to]!];
    const fits = (states: readonly string[], state: string) => states.includes(state);
    return names.find((name) => fits(PARTS[name].before, one) && fits(PARTS[name].after, other)) ?? null;
  }

  function conditions(name: Part) {
    return [moved(PARTS[name].before, before, PARTS[name].after, movement.to)];
  }

  const INK: Record<string, string> = {
    joined: "var(--state-new)",
    reactivated: "var(--state-active)",
    retained: "var(--state-active)",
    lapsed: "var(--state-dormant)",
    newly_churned: "var(--state-churned)",
    came_and_lapsed: "var(--state-churned)",
  };
  const rows = $derived(
    ALL_STATES.flatMap((from, row) =>
      ALL_STATES.map((to, column) => ({
        from_date: before,
        to_date: movement.to,
        from_state: from,
        to_state: to,
        people: table[row]?.[column] ?? 0,
        part: partOf(row, column),
      })),
    ),
  );
</script>

<div class="mt-2 grid gap-x-10 gap-y-4 lg:grid-cols-[auto_1fr]">
  <div class="overflow-x-auto">
    <table class="figures w-auto!" aria-label="Movement between states" data-testid="movement">
      <thead>
        <tr>
          <th class="font-normal!">{day(before)} ↓ &nbsp; {day(movement.to)} →</th>
          {#each ALL_STATES as state (state)}<th class="pl-4!"><StateMark {state} /></th>{/each}
        </tr>
      </thead>
      <tbody>
        {#each ALL_STATES as from, row (from)}
          <tr>
            <th scope="row" class="pr-4!"><StateMark state={from} /></th>
            {#each ALL_STATES as to, column (to)}
              {@const count = table[row]?.[column] ?? 0}
              {@const part = partOf(row, column)}
              <td class="h-11! min-w-22 pl-4!">
                {#if count > 0}
                  {#if from === "never_active" && to === "never_active"}<span class="soft"
                      >{number(count)}</span
                    >
                  {:else}<a
                      class={row === column ? "" : "font-semibold"}
                      href={peopleOf([moved([from], before, [to], movement.to)], movement.to)}
                      aria-label="{plural(count, 'person', 'people')} from {stateName(from)} to {stateName(
                        to,
                      )}{part ? `, ${part.replace('_', ' ')}` : ''}">{number(count)}</a
                    >{/if}
                  {#if row !== column}
                    <svg width="80" height="6" class="mt-1 block" aria-hidden="true"
                      ><rect
                        width={Math.max(1.5, (80 * count) / largest)}
                        height="6"
                        fill={part ? INK[part] : "var(--rule-strong)"}
                      /></svg
                    >
                  {/if}
                {:else}<span class="soft">·</span>{/if}
              </td>
            {/each}
          </tr>
        {/each}
      </tbody>
    </table>
  </div>
  <div>
    <table class="figures w-auto!" aria-label="Movement summary">
      <tbody>
        {#each names as name (name)}
          <tr>
            <td>
              <svg width="10" height="10" class="mr-2 inline" aria-hidden="true"
                ><rect width="10" height="10" fill={INK[name]} /></svg
              >
              {name.replaceAll("_", " ")}
            </td>
            <td class="number font-semibold"
              ><a href={peopleOf(conditions(name), movement.to)}>{number(movement[name])}</a></td
            >
            <td class="soft small leading-6">{PARTS[name].means}</td>
            <td
              ><AsAudience
                name={name.replaceAll("_", " ")}
                conditions={conditions(name)}
                asOf={movement.to}
              /></td
            >
          </tr>
        {/each}
      </tbody>
    </table>
    <p class="mt-2">
      Net change in new or active people: {signed(movement.net)}. Gain/loss ratio:
      <strong>{movement.gain_loss_ratio === null ? "–" : ratio(movement.gain_loss_ratio)}</strong>.
      <span class="ml-3"><Downloads name="movement-{before}-{movement.to}" {rows} /></span>
    </p>
    {#if movement.to >= (workspace.info?.today ?? "")}<p class="soft small">
        {day(movement.to)} has not ended.
      </p>{/if}
  </div>
</div>
