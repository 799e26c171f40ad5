<script lang="ts">
  import { address } from "../lib/address.svelte";
  import type { Schemas } from "../lib/api/client";
  import { Asked } from "../lib/asked.svelte";
  import { numbersOf } from "../audiences/editor/values";
  import { day, fine, number, percent } from "../lib/format";
  import { workspace } from "../lib/workspace.svelte";
  import Downloads from "../ui/Downloads.svelte";
  import NumberField from "../ui/NumberField.svelte";
  import SelectField from "../ui/SelectField.svelte";
  import Waiting from "../ui/Waiting.svelte";

  /** Whether a run did any good: those exported against those held out, who were chosen by chance. */
  let { run }: { run: Schemas["Run"] } = $props();

  const DAYS = 14;
  /** Differences worth telling: of shares, and of means as a part of that of those held out. */
  const SIZES = { share: [0.005, 0.01, 0.02, 0.05, 0.1], sum: [0.02, 0.05, 0.1, 0.2, 0.5] };
  type Measure = "did" | "sum" | "back";
  const MEASURES: [Measure, string][] = [
    ["back", "coming back to active"],
    ["did", "doing something"],
    ["sum", "a sum per person"],
  ];
  const types = $derived(workspace.catalogue?.event_types ?? []);
  const measure = $derived((address.get("measure") ?? "back") as Measure);
  const event = $derived(address.get("event") ?? types[0]?.name);
  const numbers = $derived(numbersOf(event));
  const property = $derived(address.get("property") ?? numbers[0]);
  const days = $derived(Number(address.get("days") ?? DAYS));
  const size = $derived(Number(address.get("size") ?? (measure === "sum" ? 0.1 : 0.02)));
  const sizes = $derived(
    measure === "sum"
      ? SIZES.sum.map((one) => [String(one), `${percent(one)} of the mean`] as const)
      : SIZES.share.map((one) => [String(one), `${points(one, true)} points`] as const),
  );

  const effect = new Asked("export-effect", () => ({
    run: run.id,
    days,
    size,
    metric: measure === "back" ? null : metric(measure),
  }));
  const found = $derived(effect.data?.picture);

  function metric(measure: "did" | "sum"): Schemas["Metric"] {
    const sum = measure === "sum" && property;
    return { ...(event ? { event } : {}), ...(sum ? { measure: "sum", property } : { measure: "people" }) };
  }

  function change(changes: Record<string, string | null>) {
    address.go(address.with(changes), { replace: true });
  }

  function said(value: number | null, share: boolean): string {
    if (value === null) return "–";
    return share ? fine(value) : value.toFixed(2);
  }

  function points(value: number, share: boolean): string {
    const text = share ? (value * 100).toFixed(1) : value.toFixed(2);
    return value > 0 ? `+${text}` : text.replace("-", "−");
  }

  /** Where a difference lies on a strip that holds the whole interval and zero. */
  const reach = $derived.by(() => {
    const apart = found?.difference;
    return apart ? 1.15 * Math.max(Math.abs(apart.low), Math.abs(apart.high), 1e-9) : 1;
  });
  const at = (value: number) => 50 + (50 * value) / reach;
</script>

<h2 class="mt-8">Did it change anything?</h2>
<div class="mt-1 flex flex-wrap items-end gap-x-4 gap-y-2">
  <SelectField
    label="Measured by"
    value={measure}
    options={MEASURES}
    changed={(measure) => change({ measure, event: null, property: null, size: null })}
  />
  {#if measure !== "back"}
    <SelectField
      label="event"
      value={event ?? ""}
      options={types.map(({ name }) => [name, name] as const)}
      changed={(event) => change({ event, property: null })}
    />
  {/if}
  {#if measure === "sum"}
    <SelectField
      label="of"
      value={property ?? ""}
      options={numbers.map((name) => [name, name] as const)}
      changed={(property) => change({ property })}
    />
  {/if}
  <NumberField
    label="within days"
    max="365"
    value={days}
    onchange={(changed) => change({ days: changed.currentTarget.value })}
  />
  <SelectField
    label="a difference worth telling"
    value={String(size)}
    options={sizes}
    changed={(size) => change({ size })}
  />
</div>
{#if effect.data && found && !effect.problem}
  {@const data = found}
  <p class="says mt-3" data-testid="verdict">{effect.data.finding} {effect.data.caveats.join(" ")}</p>
  <div class="mt-3 overflow-x-auto">
    <table class="figures w-auto!" aria-label="Exported and held out" data-testid="effect">
      <thead>
        <tr>
          <th class="pr-8!">From {day(data.from)} to {day(data.to)}</th>
          <th class="number">People</th>
          {#if data.share}<th class="number">Did</th>{/if}
          <th class="number">{data.share ? "Share" : "Mean"}</th>
        </tr>
      </thead>
      <tbody class:unfinished={!data.complete}>
        {#each data.groups as group, index (index)}
          <tr>
            <td>{index === 0 ? "exported" : "held out"}</td>
            <td class="number">{number(group.people)}</td>
            {#if data.share}<td class="number">{number(group.hits ?? 0)}</td>{/if}
            <td class="number font-semibold">{said(group.mean, data.share)}</td>
          </tr>
        {/each}
      </tbody>
    </table>
  </div>
  {#if data.difference}
    {@const apart = data.difference}
    <div class="mt-3 flex flex-wrap items-center gap-x-6 gap-y-1">
      <svg
        width="360"
        height="44"
        viewBox="0 0 100 12"
        preserveAspectRatio="none"
        role="img"
        aria-label="Difference {points(apart.estimate, data.share)}, 95% interval {points(
          apart.low,
          data.share,
        )} to {points(apart.high, data.share)}"
      >
        <line x1="50" x2="50" y1="0" y2="12" stroke="var(--ink)" stroke-dasharray="1 1" stroke-width="0.4" />
        <rect
          x={at(apart.low)}
          y="4.5"
          width={Math.max(0.4, at(apart.high) - at(apart.low))}
          height="3"
          fill="var(--state-active)"
          opacity="0.45"
        />
        <rect x={at(apart.estimate) - 0.4} y="2.5" width="0.8" height="7" fill="var(--state-active)" />
      </svg>
      <span
        ><strong>{points(apart.estimate, data.share)}{data.share ? " points" : ""}</strong>
        <span class="soft"
          >95% interval {points(apart.low, data.share)} to {points(apart.high, data.share)}</span
        ></span
      >
      {#if data.relative}
        <span class="soft"
          >relative {points(data.relative.estimate, true)}% ({points(data.relative.low, true)} to {points(
            data.relative.high,
            true,
          )})</span
        >
      {/if}
      {#if data.p_value !== null}<span class="soft"
          >p {data.p_value < 0.0001 ? "< 0.0001" : `= ${data.p_value.toFixed(4)}`}</span
        >{/if}
      <Downloads
        name="effect"
        rows={data.groups.map((group, index) => ({
          group: index === 0 ? "exported" : "held_out",
          people: group.people,
          hits: group.hits,
          mean: group.mean,
        }))}
      />
    </div>
  {/if}
{:else}
  <Waiting of={effect} />
{/if}
