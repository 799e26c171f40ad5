<script lang="ts">
  import { address } from "../../lib/address.svelte";
  import { answer, api, type Schemas } from "../../lib/api/client";
  import Backtest from "../../lib/components/Backtest.svelte";
  import Downloads from "../../lib/components/Downloads.svelte";
  import LinePlot from "../../lib/components/LinePlot.svelte";
  import Picture from "../../lib/components/Picture.svelte";
  import PolicyEffect from "../../lib/components/PolicyEffect.svelte";
  import SplitBy, { by } from "../../lib/components/SplitBy.svelte";
  import Waiting from "../../lib/components/Waiting.svelte";
  import { number, percent } from "../../lib/format";
  import type { Line } from "../../lib/plot";
  import { Resource } from "../../lib/resource.svelte";
  import { tray } from "../../lib/tray.svelte";
  import { workspace } from "../../lib/workspace.svelte";

  /** Which day counts fit the data: how long quiet periods last, who comes back, and what other counts would change. */
  const LINES = 6;
  const MONTH = 30;
  const policy = $derived(workspace.policy);
  const asked = $derived(by(address.get("by") ?? ""));

  function whole(name: string, otherwise: number, least: number, most: number): number {
    const value = Number(address.get(name));
    return Number.isInteger(value) && value >= least && value <= most ? value : otherwise;
  }
  const horizon = $derived(whole("horizon", 90, 1, 3650));
  const share = $derived(whole("share", 10, 1, 99));
  const dormantShare = $derived(whole("dormant_share", 50, 1, 99));
  const dormantAfter = $derived(whole("dormant", policy?.active_within ?? 30, 1, 3650));
  const churnedAfter = $derived(whole("churned", policy?.churned_after ?? 90, 2, 3650));
  const tried = $derived(dormantAfter !== policy?.active_within || churnedAfter !== policy?.churned_after);
  const possible = $derived(dormantAfter < churnedAfter);

  const study = new Resource((signal) => {
    void workspace.policies;
    const query = {
      ...workspace.dates,
      horizon,
      share: share / 100,
      dormant_share: dormantShare / 100,
      ...(possible ? { active_within: dormantAfter, churned_after: churnedAfter } : {}),
      ...(asked ? { by: JSON.stringify(asked), top: LINES } : { tray: tray.query }),
    };
    return answer(api.GET("/base/thresholds", { params: { query }, signal }));
  });

  function set(name: string, value: string | number | null) {
    address.go(address.with({ [name]: value === null ? null : String(value) }), { replace: true });
  }

  type Curve = Schemas["Curve"];
  const most = $derived(
    Math.min(study.data?.longest ?? 1, Math.max(churnedAfter * 2, churnedAfter + horizon, 60)),
  );

  /** The value of a curve at each of some days: it holds from one point to the next. */
  function along(curve: Curve, days: number[], column: number): (number | null)[] {
    let index = -1;
    return days.map((at) => {
      while (index + 1 < curve.length && curve[index + 1]![0]! <= at) index++;
      return index < 0 ? 1 : (curve[index]![column] ?? null);
    });
  }
  const days = $derived(Array.from({ length: most + 1 }, (_, index) => index));
  const groups = $derived(study.data?.groups ?? []);

  function name(group: (typeof groups)[number]): string {
    if (group.id !== null) return tray.name(group.id);
    return group.kind === "value" ? (group.value ?? "") : group.kind === "other" ? "other" : "not set";
  }
  const lines = $derived.by((): Line[] => {
    const curve = study.data?.curve ?? [];
    const censored = new Set(curve.filter((point) => point[4]! > 0).map((point) => point[0]));
    return [
      {
        name: "everybody",
        values: along(curve, days, 1),
        low: along(curve, days, 2),
        high: along(curve, days, 3),
        colour: "var(--ink)",
        ticks: days.map((at) => groups.length === 0 && days.length < 200 && censored.has(at)),
      },
      ...groups.slice(0, LINES).map((group, index) => ({
        name: name(group),
        values: along(group.curve, days, 1),
        low: along(group.curve, days, 2),
        high: along(group.curve, days, 3),
        colour: `var(--tray-${group.id !== null ? tray.position(group.id) : index})`,
      })),
    ];
  });
  const marks = $derived(
    Array.from({ length: Math.floor(most / MONTH) + 1 }, (_, index) => index * MONTH)
      .filter((at) => at % (MONTH * Math.ceil(most / MONTH / 12)) === 0)
      .map((at) => ({ at, text: at === 0 ? "0" : `${at} days` })),
  );
  const verticals = $derived([
    { at: dormantAfter, text: `dormant from ${dormantAfter}` },
    { at: churnedAfter, text: `churned from ${churnedAfter}` },
  ]);
  const comeback = $derived(
    (study.data?.comeback ?? []).filter(
      (row): row is [number, number | null] => row[0] !== null && row[0]! <= most,
    ),
  );
</script>

{#if study.data && policy}
  {@const data = study.data}
  <p class="says mt-3 min-h-[3.7rem]" data-testid="takeaway">{data.takeaway}</p>
  {#each data.warnings.slice(1) as warning (warning)}
    <p class="mt-2 max-w-2xl border-l-4 border-(--alarm) pl-3" role="status">{warning}</p>
  {/each}

  <div class="mt-5 grid gap-x-12 gap-y-4 lg:grid-cols-[26rem_1fr]">
    <form class="flex flex-col gap-3" onsubmit={(event) => event.preventDefault()}>
      {#each [["dormant", "Dormant from", dormantAfter, 1, data.suggested.active_within], ["churned", "Churned from", churnedAfter, 2, data.suggested.churned_after]] as const as [key, label, value, least, suggested] (key)}
        <label class="field">
          <span class="flex justify-between"
            ><span>{label}</span><strong>{number(value)} quiet days</strong></span
          >
          <input
            type="range"
            min={least}
            max={Math.max(key === "churned" ? 365 : 180, value)}
            {value}
            aria-valuetext="{value} quiet days"
            oninput={(event) => set(key, event.currentTarget.value)}
          />
          <span class="soft small">
            {percent((key === "dormant" ? data.at_dormant : data.at_churned) ?? 0)} of those who reach it come back
            within {horizon}
            days{#if (key === "dormant" ? data.at_dormant : data.at_churned) === null}
              (not known: the history is too short){/if}.
            {#if suggested !== null}
              <button
                class="cursor-pointer underline underline-offset-3"
                type="button"
                onclick={() => set(key, suggested)}>{suggested} days</button
              >
              would keep it at {key === "dormant" ? dormantShare : share} %.
            {:else}No count keeps it at {key === "dormant" ? dormantShare : share} % in this history.{/if}
          </span>
        </label>
      {/each}
      {#if !possible}<p role="alert" class="border-l-4 border-(--alarm) pl-3">
          Churned must begin later than dormant, or nobody could be dormant.
        </p>{/if}
      <div class="flex flex-wrap items-center gap-x-4 gap-y-2">
        {#each [["horizon", "Back within", horizon, 3650, "days"], ["share", "Of the churned at most", share, 99, "%"], ["dormant_share", "Of the dormant at most", dormantShare, 99, "%"]] as const as [key, label, value, top, unit] (key)}
          <label class="small flex items-center gap-2">
            {label}
            <input
              type="number"
              class="w-20 text-right"
              min="1"
              max={top}
              {value}
              onchange={(event) => set(key, event.currentTarget.value)}
            />
            {unit}
          </label>
        {/each}
      </div>
      {#if tried}
        <div class="flex gap-2">
          <a
            class="act"
            href={address.to("/base/policies", {
              edit: policy.id === null ? "new" : String(policy.id),
              dormant: String(dormantAfter),
              churned: String(churnedAfter),
            })}>Take these over…</a
          >
          <a class="quiet" href={address.with({ dormant: null, churned: null })}>Back to those in force</a>
        </div>
      {/if}
    </form>
    {#if possible}<PolicyEffect
        rules={{ ...policy, active_within: dormantAfter, churned_after: churnedAfter }}
        table={tried}
      />{/if}
  </div>

  <Picture title="How long quiet periods last" name="quiet-periods" takeaway={data.takeaway}>
    {#snippet beside()}
      <label class="small flex items-center gap-2">
        by <SplitBy
          value={address.get("by") ?? ""}
          none="the tray"
          choose={(value) => set("by", value || null)}
        />
      </label>
      <Downloads
        name="quiet-periods"
        rows={[
          { name: "everybody", curve: data.curve },
          ...groups.map((group) => ({ name: name(group), curve: group.curve })),
        ].flatMap((line) =>
          line.curve.map((point) => ({
            group: line.name,
            days: point[0]!,
            still_quiet: point[1]!,
            low: point[2] ?? null,
            high: point[3] ?? null,
            censored: point[4]!,
            at_risk: point[5]!,
          })),
        )}
      />
    {/snippet}
    <LinePlot
      label="Share of quiet periods that last longer, with 95 % band"
      {lines}
      xs={days}
      {marks}
      {verticals}
      format={(value) => `${(value * 100).toFixed(value > 0 && value < 0.1 ? 1 : 0)} %`}
      most={1}
      steps
      height={260}
      room={180}
    />
    <p class="soft small max-w-3xl">
      Share of quiet periods that last longer than so many days (Kaplan–Meier, 95 % band; small marks: periods
      not over yet).
      {number(data.periods)} periods, the longest {number(data.longest ?? 0)} days. Several periods of one person
      count as independent, so the band is narrower than it would be for people.
    </p>
  </Picture>
  <Picture title="The chance to come back within {horizon} days" name="comeback" takeaway={data.takeaway}>
    <LinePlot
      label="Chance to come back after so many quiet days"
      lines={[{ name: "chance", values: comeback.map((row) => row[1]), colour: "var(--state-active)" }]}
      xs={comeback.map((row) => row[0])}
      marks={marks.filter((mark) => mark.at <= (comeback.at(-1)?.[0] ?? 0))}
      {verticals}
      reference={{ at: share / 100, text: `${share} %` }}
      format={(value) => `${(value * 100).toFixed(value > 0 && value < 0.1 ? 1 : 0)} %`}
      height={190}
      room={120}
    />
  </Picture>
  {#if groups.length}
    <table class="figures mt-4 w-auto!" aria-label="Thresholds of each group">
      <thead
        ><tr
          ><th>Group</th><th class="number">People</th><th class="number">Quiet periods</th><th class="number"
            >Come back after {churnedAfter} days</th
          ><th class="number">{share} % from</th></tr
        ></thead
      >
      <tbody>
        {#each groups as group (`${group.kind}${group.id}${group.value}`)}
          <tr>
            <td>{name(group)}</td>
            <td class="number">{number(group.people)}</td>
            <td class="number">{number(group.periods)}</td>
            <td class="number">{group.at_churned === null ? "–" : percent(group.at_churned)}</td>
            <td class="number">{group.suggested === null ? "–" : `${number(group.suggested)} days`}</td>
          </tr>
        {/each}
      </tbody>
    </table>
  {/if}
  {#if groups.length}<Downloads
      name="thresholds"
      rows={groups.map((group) => ({
        group: name(group),
        people: group.people,
        quiet_periods: group.periods,
        come_back: group.at_churned,
        suggested_churned_after: group.suggested,
      }))}
    />{/if}
  {#if possible}<Backtest {dormantAfter} {churnedAfter} />{/if}
{/if}
{#if study.problem || !study.data}<Waiting problem={study.problem} retry={() => study.reload()} />{/if}
