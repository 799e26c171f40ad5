<script lang="ts">
  import type { Comparison, Count, Deed, Measure, Unit } from "../definition";
  import { eventFields, firstComparison } from "./values";
  import Whole from "./Whole.svelte";

  /** How often something happened, or what a property of it comes to. */
  let {
    piece: did,
    put: change,
    close,
    units = true,
  }: {
    piece: Deed;
    put: (piece: Deed) => void;
    close: () => void;
    /** Whether it may be counted by days and the like, too. */
    units?: boolean;
  } = $props();

  type Kind = "not" | "at_least" | "exactly" | "at_most" | "between" | "measure";
  const NAMES: [Kind, string][] = [
    ["at_least", "at least"],
    ["exactly", "exactly"],
    ["at_most", "at most"],
    ["between", "between"],
    ["not", "never"],
    ["measure", "by a property …"],
  ];
  const UNITS: [Unit, string][] = [
    ["events", "times"],
    ["days", "different days"],
    ["weeks", "different weeks"],
    ["visits", "different visits"],
  ];
  const TAKES: [Measure["take"], string][] = [
    ["sum", "total"],
    ["mean", "mean"],
    ["min", "least"],
    ["max", "greatest"],
    ["distinct", "number of different"],
    ["first", "first"],
    ["last", "last"],
    ["most_frequent", "most frequent"],
  ];
  const VALUES: Measure["take"][] = ["first", "last", "most_frequent"];

  const count = $derived<Count>(did.count ?? { at_least: 1 });
  const fields = $derived(eventFields(did));
  const kind = $derived<Kind>(
    did.measure
      ? "measure"
      : count.exactly === 0
        ? "not"
        : (["at_least", "exactly", "at_most", "between"] as const).find((name) => count[name] !== undefined)!,
  );
  const first = $derived(count.between?.[0] ?? count.at_least ?? count.exactly ?? count.at_most ?? 1);
  const second = $derived(count.between?.[1] ?? first + 1);
  const takes = $derived(
    TAKES.filter(
      ([take]) =>
        fields.find((field) => field.name === did.measure?.of)?.type === "number" ||
        take === "distinct" ||
        VALUES.includes(take),
    ),
  );

  function set(changes: { count?: Count; measure?: Measure }) {
    const rest = { ...did };
    delete rest.count;
    delete rest.measure;
    change({ ...rest, ...changes });
  }

  async function make(nextKind: Kind, low: number, high: number, unit = count.of) {
    const of = unit && unit !== "events" ? { of: unit } : {};
    const smallest = nextKind === "at_least" || nextKind === "exactly" ? 1 : 0;
    const value = Math.max(smallest, Math.min(1_000_000, Math.round(low) || 0));
    if (nextKind === "not") set({ count: { exactly: 0 } });
    else if (nextKind === "between")
      set({ count: { between: [value, Math.max(value, Math.round(high) || 0)], ...of } });
    else if (nextKind === "measure")
      await measured(fields.find((field) => field.type === "number")?.name ?? fields[0]!.name);
    else set({ count: { [nextKind]: value, ...of } });
  }

  async function measured(of: string, take?: Measure["take"]) {
    const field = fields.find((entry) => entry.name === of)!;
    const numeric = field.type === "number";
    const chosen = take ?? (numeric ? "sum" : "most_frequent");
    const known =
      did.measure && did.measure.of === of && VALUES.includes(did.measure.take) === VALUES.includes(chosen);
    const compared: Comparison = known
      ? { compare: did.measure!.compare, value: did.measure!.value }
      : VALUES.includes(chosen)
        ? await firstComparison({ event: did.event, property: of })
        : { compare: "at_least", value: 1 };
    set({ measure: { of, take: chosen, ...compared } });
  }
</script>

<div class="flex flex-wrap items-center gap-2">
  <select
    aria-label="How often"
    value={kind}
    onchange={(event) => make(event.currentTarget.value as Kind, first, second)}
  >
    {#each NAMES as [value, name] (value)}
      {#if value !== "measure" || fields.length}<option {value}>{name}</option>{/if}
    {/each}
  </select>
  {#if did.measure}
    <select
      aria-label="Aggregation"
      value={did.measure.take}
      onchange={(event) => measured(did.measure!.of, event.currentTarget.value as Measure["take"])}
    >
      {#each takes as [value, name] (value)}<option {value}>{name}</option>{/each}
    </select>
    <select
      aria-label="Of which property"
      value={did.measure.of}
      onchange={(event) => measured(event.currentTarget.value)}
    >
      {#each fields as field (field.name)}<option value={field.name}>{field.display}</option>{/each}
    </select>
    <p class="soft small w-full">Edit the comparison in the sentence.</p>
  {:else if kind !== "not"}
    <Whole
      label="Times"
      min={kind === "at_most" || kind === "between" ? 0 : 1}
      max={1_000_000}
      value={first}
      change={(value) => make(kind, value, second)}
      {close}
    />
    {#if kind === "between"}
      and
      <Whole
        label="Times at most"
        min={0}
        max={1_000_000}
        value={second}
        change={(value) => make(kind, first, value)}
        {close}
      />
    {/if}
    {#if units}
      <select
        aria-label="Counted by"
        value={count.of ?? "events"}
        onchange={(event) => make(kind, first, second, event.currentTarget.value as Unit)}
      >
        {#each UNITS as [value, name] (value)}<option {value}>{name}</option>{/each}
      </select>
    {:else}
      times
    {/if}
  {/if}
</div>
