<script lang="ts" module>
  import type { Node, Selection } from "../definition";
  import type { Condition, PhraseProps } from "./condition";
  import { deedActions } from "../editor/deeds";
  import { withoutPiece, withPiece } from "../editor/editing";

  const STARTS = {
    often: { text: "at least 3 visits", visited: { count: { at_least: 3 } } },
    long: { text: "a visit of 10 minutes or more", visited: { length: { at_least: 600 } } },
    short: { text: "a visit of a single event", visited: { events: { at_most: 1 } } },
    none: { text: "no visits", visited: { count: { exactly: 0 } } },
  } as const;

  export const condition: Condition = {
    keys: ["visited"],
    phrases: { visited: "Which visits", count: "How often in the visit" },
    offers: [
      {
        about: "what",
        text: "who visited…",
        ask: "Visits",
        options: () => Object.entries(STARTS).map(([value, { text }]) => ({ value, text })),
        begin: (chosen) => ({
          visited: {
            count: { at_least: 1 },
            window: { last_days: 30 },
            ...STARTS[chosen as keyof typeof STARTS].visited,
          },
        }),
        then: "visited",
      },
    ],
    selections: ({ visited }) => [
      ...(["began", "ended"] as const).flatMap((end) => (visited![end] ? [`visited.${end}`] : [])),
      ...(visited!.doing ?? []).map((_, index) => `visited.doing[${index}]`),
    ],
    actions: (node, next) => [...ends(node, next), ...deedActions(node, "visited.doing", next, 0)],
  };

  /** What the visit began and ended with. */
  function ends(node: Node, next: Selection) {
    return (["began", "ended"] as const).map((end) => {
      const given = node.visited![end];
      return {
        text: `${given ? "Remove" : "Set"} the event the visit ${end === "began" ? "started" : end} with`,
        node: given ? withoutPiece(node, `visited.${end}`) : withPiece(node, `visited.${end}`, next),
      };
    });
  }
</script>

<script lang="ts">
  import type { Count, Deed, Visited } from "../definition";
  import HowOften from "../editor/HowOften.svelte";
  import Whole from "../editor/Whole.svelte";

  /** How many visits, and of which kind; and how often something was done in each. */
  let { slot, piece, put, close }: PhraseProps<Visited | Deed> = $props();
  const visited = $derived(piece as Visited);
  const change = (next: Visited) => put(next);

  type Kind = "at_least" | "exactly" | "at_most" | "between";
  const KINDS: [Kind, string][] = [
    ["at_least", "at least"],
    ["exactly", "exactly"],
    ["at_most", "at most"],
    ["between", "between"],
  ];
  const MINUTE = 60;
  const MOST = 1_000_000;
  const count = $derived<Count>(visited.count ?? { at_least: 1 });
  const kind = $derived(KINDS.map(([name]) => name).find((name) => count[name] !== undefined) ?? "at_least");
  const first = $derived(count.between?.[0] ?? count.at_least ?? count.exactly ?? count.at_most ?? 1);
  const second = $derived(count.between?.[1] ?? first + 1);

  /** Each with its ends, as they are named and how large one of them is. */
  const RANGES = [
    { name: "length", text: "that lasted", unit: "minutes", one: MINUTE, high: "below", most: "less than" },
    { name: "events", text: "with", unit: "events", one: 1, high: "at_most", most: "at most" },
    {
      name: "number",
      text: "visit number",
      unit: "of the person",
      one: 1,
      high: "at_most",
      most: "at most",
    },
  ] as const;
  type Range = (typeof RANGES)[number];

  function make(next: Kind, low: number, high: number) {
    const value = Math.max(next === "at_least" ? 1 : 0, Math.min(MOST, Math.round(low) || 0));
    const counted =
      next === "between" ? { between: [value, Math.max(value, Math.round(high) || 0)] } : { [next]: value };
    change({ ...visited, count: counted as Count });
  }

  const ends = (range: Range) => (visited[range.name] ?? null) as Record<string, number> | null;

  function bound(range: Range, changes: Record<string, number | undefined> | null) {
    const next = { ...visited };
    const kept = Object.entries({ ...ends(range), ...changes }).filter(([, value]) => value !== undefined);
    if (changes && kept.length) next[range.name] = Object.fromEntries(kept);
    else delete next[range.name];
    change(next);
  }
</script>

{#if slot === "count"}
  <HowOften piece={piece as Deed} {put} {close} units={false} />
{:else}
  <div class="flex flex-col gap-2">
    <div class="flex flex-wrap items-center gap-2">
      <select
        aria-label="How many"
        value={kind}
        onchange={(event) => make(event.currentTarget.value as Kind, first, second)}
      >
        {#each KINDS as [value, name] (value)}<option {value}>{name}</option>{/each}
      </select>
      <Whole
        label="Visits"
        min={kind === "at_least" ? 1 : 0}
        max={MOST}
        value={first}
        change={(value) => make(kind, value, second)}
        {close}
      />
      {#if kind === "between"}and <Whole
          label="Visits at most"
          min={0}
          max={MOST}
          value={second}
          change={(value) => make(kind, first, value)}
          {close}
        />{/if} visits
    </div>
    {#each RANGES as range (range.name)}
      {@const given = ends(range)}
      <div class="flex flex-wrap items-center gap-2">
        <label class="flex items-center gap-2">
          <input
            type="checkbox"
            checked={given !== null}
            onchange={(event) => bound(range, event.currentTarget.checked ? { at_least: range.one } : null)}
          />
          {range.text}
        </label>
        {#if given}
          at least <Whole
            label="{range.name}, at least"
            min={0}
            max={Math.floor(MOST / range.one)}
            value={Math.round((given.at_least ?? 0) / range.one)}
            change={(value) => bound(range, { at_least: value ? value * range.one : undefined })}
            {close}
          />
          <label class="flex items-center gap-2">
            <input
              type="checkbox"
              aria-label="{range.name}, {range.most}"
              checked={given[range.high] !== undefined}
              onchange={(event) =>
                bound(range, {
                  [range.high]: event.currentTarget.checked ? (given.at_least ?? 0) + range.one : undefined,
                })}
            />
            and {range.most}
          </label>
          {#if given[range.high] !== undefined}<Whole
              label="{range.name}, up to"
              min={1}
              max={Math.floor(MOST / range.one)}
              value={Math.round(given[range.high]! / range.one)}
              change={(value) => bound(range, { [range.high]: value * range.one })}
              {close}
            />{/if}
        {/if}
        {range.unit}
      </div>
    {/each}
  </div>
{/if}
