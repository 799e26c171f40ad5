<script lang="ts">
  import type { Window } from "../definition";
  import { addDays } from "../format";
  import { workspace } from "../workspace.svelte";

  /** The stretch of time a clause looks at. */
  let { window, change, close }: { window: Window; change: (window: Window) => void; close: () => void } =
    $props();

  const NAMES = [
    ["last", "in the last … days"],
    ["between", "between two dates"],
    ["ever", "at any time"],
  ] as const;
  type Kind = (typeof NAMES)[number][0];
  const kind = $derived<Kind>("last_days" in window ? "last" : "from" in window ? "between" : "ever");

  function choose(next: string) {
    if (next === "last") change({ last_days: 30 });
    else if (next === "between") change({ from: addDays(workspace.asOf, -29), to: workspace.asOf });
    else change({ ever: true });
  }

  function bound(name: "from" | "to", value: string) {
    if (!value || !("from" in window)) return;
    const next = { ...window, [name]: value };
    change(next.from > next.to ? { from: value, to: value } : next);
  }
</script>

<div class="flex flex-col gap-2">
  <select aria-label="When" value={kind} onchange={(event) => choose(event.currentTarget.value)}>
    {#each NAMES as [value, name] (value)}<option {value}>{name}</option>{/each}
  </select>
  {#if "last_days" in window}
    <label class="flex items-center gap-2">
      in the last
      <input
        type="number"
        min="1"
        max="36500"
        class="w-24 text-right"
        aria-label="Days"
        value={window.last_days}
        oninput={(event) => {
          const days = event.currentTarget.valueAsNumber;
          if (days >= 1) change({ last_days: Math.min(36_500, Math.round(days)) });
        }}
        onkeydown={(event) => event.key === "Enter" && close()}
      />
      days
    </label>
  {:else if "from" in window}
    <label class="flex items-center gap-2">
      from <input
        type="date"
        value={window.from}
        onchange={(event) => bound("from", event.currentTarget.value)}
      />
    </label>
    <label class="flex items-center gap-2">
      to <input type="date" value={window.to} onchange={(event) => bound("to", event.currentTarget.value)} />
    </label>
  {/if}
</div>
