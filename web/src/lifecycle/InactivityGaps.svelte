<script lang="ts">
  import type { Schemas } from "../lib/api/client";
  import { fine, number } from "../lib/format";
  import type { Line } from "../charts/plot";
  import { comparison } from "../audiences/comparison.svelte";
  import type { Trial } from "./trial.svelte";
  import LinePlot from "../charts/LinePlot.svelte";

  /** How long inactivity gaps last, of everybody and of groups. */
  let { thresholds, trial }: { thresholds: Schemas["ThresholdsPicture"]; trial: Trial } = $props();

  type Curve = Schemas["Curve"];
  type Group = Schemas["ThresholdsPicture"]["groups"][number];
  const LINES = 6;
  const days = $derived(Array.from({ length: trial.furthest(thresholds) + 1 }, (_, index) => index));

  function name(group: Group): string {
    if (group.id !== null) return comparison.name(group.id);
    return group.kind === "value" ? (group.value ?? "") : group.kind === "other" ? "other" : "not set";
  }

  /** The value of a curve at each day: it holds from one point to the next. */
  function along(curve: Curve, column: number): (number | null)[] {
    let index = -1;
    return days.map((at) => {
      while (index + 1 < curve.length && curve[index + 1]![0]! <= at) index++;
      return index < 0 ? 1 : (curve[index]![column] ?? null);
    });
  }

  function line(label: string, curve: Curve, colour: string): Line {
    return {
      name: label,
      colour,
      values: along(curve, 1),
      low: along(curve, 2),
      high: along(curve, 3),
    };
  }

  const censored = $derived(
    new Set(thresholds.curve.filter((point) => point[4]! > 0).map((point) => point[0])),
  );
  const lines = $derived([
    {
      ...line("all people", thresholds.curve, "var(--ink)"),
      ticks: days.map((at) => thresholds.groups.length === 0 && days.length < 200 && censored.has(at)),
    },
    ...thresholds.groups
      .slice(0, LINES)
      .map((group, index) =>
        line(
          name(group),
          group.curve,
          `var(--comparison-${group.id !== null ? comparison.position(group.id) : index})`,
        ),
      ),
  ]);
</script>

<LinePlot
  label="Share of inactivity gaps longer than t days, with 95% CI"
  {lines}
  xs={days}
  marks={trial.marks(days.length - 1)}
  verticals={trial.verticals}
  format={fine}
  most={1}
  steps
  height={260}
  room={180}
/>
<p class="soft small max-w-3xl">
  Share of inactivity gaps longer than t days (Kaplan–Meier, 95% CI; ticks: open gaps). {number(
    thresholds.gaps,
  )} gaps, longest {number(thresholds.longest ?? 0)} days.
</p>
