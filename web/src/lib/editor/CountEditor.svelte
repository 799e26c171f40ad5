<script lang="ts">
  import type { Count } from "../definition";

  /** How often something happened. */
  let { count, change, close }: { count: Count; change: (count: Count) => void; close: () => void } =
    $props();

  type Kind = "not" | "at_least" | "exactly" | "at_most" | "between";
  const NAMES: [Kind, string][] = [
    ["at_least", "at least"],
    ["exactly", "exactly"],
    ["at_most", "at most"],
    ["between", "between"],
    ["not", "not at all"],
  ];
  const kind = $derived<Kind>(
    "exactly" in count && count.exactly === 0 ? "not" : (Object.keys(count)[0] as Kind),
  );
  const first = $derived("between" in count ? count.between[0] : (Object.values(count)[0] as number));
  const second = $derived("between" in count ? count.between[1] : first + 1);

  function make(nextKind: Kind, low: number, high: number) {
    const smallest = nextKind === "at_least" || nextKind === "exactly" ? 1 : 0;
    const value = Math.max(smallest, Math.min(1_000_000, Math.round(low) || 0));
    if (nextKind === "not") change({ exactly: 0 });
    else if (nextKind === "between") change({ between: [value, Math.max(value, Math.round(high) || 0)] });
    else change({ [nextKind]: value } as Count);
  }
</script>

<div class="flex flex-wrap items-center gap-2">
  <select
    aria-label="How often"
    value={kind}
    onchange={(event) => make(event.currentTarget.value as Kind, first, second)}
  >
    {#each NAMES as [value, name] (value)}<option {value}>{name}</option>{/each}
  </select>
  {#if kind !== "not"}
    <input
      type="number"
      min="0"
      class="w-20 text-right"
      aria-label="Times"
      value={first}
      oninput={(event) =>
        event.currentTarget.value !== "" && make(kind, event.currentTarget.valueAsNumber, second)}
      onkeydown={(event) => event.key === "Enter" && close()}
    />
    {#if kind === "between"}
      and
      <input
        type="number"
        min="0"
        class="w-20 text-right"
        aria-label="and at most"
        value={second}
        onchange={(event) => make(kind, first, event.currentTarget.valueAsNumber)}
        onkeydown={(event) => event.key === "Enter" && close()}
      />
    {/if}
    times
  {/if}
</div>
