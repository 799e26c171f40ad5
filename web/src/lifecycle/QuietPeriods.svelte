<script lang="ts">
  import { address } from "../lib/address.svelte";
  import type { Schemas } from "../lib/api/client";
  import { fine, number, percent } from "../lib/format";
  import type { Line } from "../charts/plot";
  import { tray } from "../audiences/tray.svelte";
  import type { Trial } from "./trial.svelte";
  import Downloads from "../ui/Downloads.svelte";
  import LinePlot from "../charts/LinePlot.svelte";
  import Picture from "../charts/Picture.svelte";
  import SplitBy from "../analyses/SplitBy.svelte";

  /** How long quiet periods last, of everybody and of groups, and the chance to come back after so many days. */
  let { study, takeaway, trial }: { study: Schemas["ThresholdsPicture"]; takeaway: string; trial: Trial } =
    $props();

  type Curve = Schemas["Curve"];
  type Group = Schemas["ThresholdsPicture"]["groups"][number];
  const LINES = 6;
  const MONTH = 30;
  const most = $derived(
    Math.min(study.longest ?? 1, Math.max(trial.churnedAfter * 2, trial.churnedAfter + trial.horizon, 60)),
  );
  const days = $derived(Array.from({ length: most + 1 }, (_, index) => index));

  function name(group: Group): string {
    if (group.id !== null) return tray.name(group.id);
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

  const censored = $derived(new Set(study.curve.filter((point) => point[4]! > 0).map((point) => point[0])));
  const lines = $derived([
    {
      ...line("everybody", study.curve, "var(--ink)"),
      ticks: days.map((at) => study.groups.length === 0 && days.length < 200 && censored.has(at)),
    },
    ...study.groups
      .slice(0, LINES)
      .map((group, index) =>
        line(name(group), group.curve, `var(--tray-${group.id !== null ? tray.position(group.id) : index})`),
      ),
  ]);
  const marks = $derived(
    days
      .filter((at) => at % (MONTH * Math.ceil(most / MONTH / 12)) === 0)
      .map((at) => ({ at, text: at === 0 ? "0" : `${at} days` })),
  );
  const verticals = $derived([
    { at: trial.dormantAfter, text: `dormant from ${trial.dormantAfter}` },
    { at: trial.churnedAfter, text: `churned from ${trial.churnedAfter}` },
  ]);
  const comeback = $derived(
    study.comeback.filter((row): row is [number, number | null] => row[0] !== null && row[0]! <= most),
  );
  const curves = $derived([
    { label: "everybody", curve: study.curve },
    ...study.groups.map((group) => ({ label: name(group), curve: group.curve })),
  ]);
</script>

<Picture title="How long quiet periods last" name="quiet-periods" {takeaway}>
  {#snippet beside()}
    <label class="small flex items-center gap-2">
      by <SplitBy
        value={address.get("by") ?? ""}
        none="the tray"
        choose={(value) => address.go(address.with({ by: value || null }), { replace: true })}
      />
    </label>
    <Downloads
      name="quiet-periods"
      rows={curves.flatMap(({ label, curve }) =>
        curve.map(([at, still, low, high, open, atRisk]) => ({
          group: label,
          days: at!,
          still_quiet: still!,
          low: low ?? null,
          high: high ?? null,
          censored: open!,
          at_risk: atRisk!,
        })),
      )}
    />
  {/snippet}
  <LinePlot
    label="Share of quiet periods that last longer, with 95% band"
    {lines}
    xs={days}
    {marks}
    {verticals}
    format={fine}
    most={1}
    steps
    height={260}
    room={180}
  />
  <p class="soft small max-w-3xl">
    Share of quiet periods that last longer than so many days (Kaplan–Meier, 95% band; small marks: periods
    not over yet).
    {number(study.gaps)} periods, the longest {number(study.longest ?? 0)} days. Several periods of one person count
    as independent, so the band is narrower than it would be for people.
  </p>
</Picture>
<Picture title="The chance to come back within {trial.horizon} days" name="comeback" {takeaway}>
  <LinePlot
    label="Chance to come back after so many quiet days"
    lines={[{ name: "chance", values: comeback.map((row) => row[1]), colour: "var(--state-active)" }]}
    xs={comeback.map((row) => row[0])}
    marks={marks.filter((mark) => mark.at <= (comeback.at(-1)?.[0] ?? 0))}
    {verticals}
    reference={{ at: trial.share / 100, text: `${trial.share}%` }}
    format={fine}
    height={190}
    room={120}
  />
</Picture>
{#if study.groups.length}
  <table class="figures mt-4 w-auto!" aria-label="Thresholds of each group">
    <thead>
      <tr>
        <th>Group</th>
        <th class="number">People</th>
        <th class="number">Quiet periods</th>
        <th class="number">Come back after {trial.churnedAfter} days</th>
        <th class="number">{trial.share}% from</th>
      </tr>
    </thead>
    <tbody>
      {#each study.groups as group (`${group.kind}${group.id}${group.value}`)}
        <tr>
          <td>{name(group)}</td>
          <td class="number">{number(group.people)}</td>
          <td class="number">{number(group.gaps)}</td>
          <td class="number">{group.at_churned === null ? "–" : percent(group.at_churned)}</td>
          <td class="number">{group.suggested === null ? "–" : `${number(group.suggested)} days`}</td>
        </tr>
      {/each}
    </tbody>
  </table>
  <Downloads
    name="thresholds"
    rows={study.groups.map((group) => ({
      group: name(group),
      people: group.people,
      gaps: group.gaps,
      come_back: group.at_churned,
      suggested_churned_after: group.suggested,
    }))}
  />
{/if}
