<script lang="ts">
  import { EXCLUDED, stepSaid, type Step, type Waterfall } from "./exports";
  import { number, percent, signed } from "../lib/format";

  /**
   * What becomes of an audience on the way to being exported: a strip that narrows from step to step, with what each
   * step excludes hatched at its end. Every number opens into its people.
   */
  let {
    people,
    channel = null,
    before = null,
    opened,
    open,
  }: {
    people: Waterfall;
    channel?: string | null;
    /** The same of the last run. */
    before?: Waterfall | null;
    opened: Step | null;
    open: (step: Step | null) => void;
  } = $props();

  const rows = $derived.by(() => {
    let left = people.audience;
    return EXCLUDED.map((step) => {
      left -= people[step]!;
      return { step, kept: people[step]!, left };
    });
  });
  function width(count: number): string {
    return `${people.audience ? (100 * count) / people.audience : 0}%`;
  }
</script>

{#snippet figure(step: Step, count: number, strong: boolean)}
  {#if count}
    <button
      class="cursor-pointer underline decoration-(--rule-strong) underline-offset-4 hover:text-(--accent)"
      class:font-semibold={strong}
      aria-expanded={opened === step}
      aria-label="{number(count)} {stepSaid(step, channel)}"
      onclick={() => open(opened === step ? null : step)}>{number(count)}</button
    >
  {:else}<span class="soft">·</span>{/if}
{/snippet}

<table class="figures" aria-label="Export waterfall" data-testid="waterfall">
  <thead>
    <tr>
      <th class="w-40">Step</th>
      <th class="number w-16">Excluded</th>
      <th><span class="sr-only">Picture</span></th>
      <th class="number w-16">Remaining</th>
      <th class="number w-16">Share</th>
      {#if before}<th class="number w-28">Last run</th>{/if}
    </tr>
  </thead>
  <tbody>
    <tr>
      <td>in the audience</td>
      <td></td>
      <td><div class="strip"><div class="left" style:width={width(people.audience)}></div></div></td>
      <td class="number font-semibold">{number(people.audience)}</td>
      <td></td>
      {#if before}<td class="number soft">{number(before.audience)}</td>{/if}
    </tr>
    {#each rows as row (row.step)}
      <tr class:soft={row.kept === 0} data-testid="step-{row.step}">
        <td class="whitespace-nowrap">{stepSaid(row.step, channel)}</td>
        <td class="number">{@render figure(row.step, row.kept, false)}</td>
        <td>
          <div class="strip">
            <div class="left" style:width={width(row.left)}></div>
            <div
              class={row.step.endsWith("holdout") ? "holdout" : "excluded"}
              style:width={width(row.kept)}
              style:min-width={row.kept ? "3px" : "0"}
            ></div>
          </div>
        </td>
        <td class="number">{number(row.left)}</td>
        <td class="number soft small leading-6">{row.kept ? percent(row.kept / people.audience) : ""}</td>
        {#if before}<td class="number soft">{before[row.step] ? number(before[row.step]!) : "·"}</td>{/if}
      </tr>
    {/each}
    <tr data-testid="step-exported">
      <td class="font-semibold">exported</td>
      <td></td>
      <td><div class="strip"><div class="over" style:width={width(people.exported)}></div></div></td>
      <td class="number">{@render figure("exported", people.exported, true)}</td>
      <td class="number soft small leading-6"
        >{people.audience ? percent(people.exported / people.audience) : ""}</td
      >
      {#if before}<td class="number soft"
          >{number(before.exported)}
          <span class="small">{signed(people.exported - before.exported)}</span></td
        >{/if}
    </tr>
  </tbody>
</table>
{#if people.entered !== undefined && people.left !== undefined}
  <p class="mt-2">
    Only changes are exported: <strong>{number(people.entered)}</strong> entered and
    <strong>{number(people.left)}</strong> left since the last run.
  </p>
{/if}

<style>
  .strip {
    display: flex;
    height: 18px;
    margin-top: 4px;
    min-width: 6rem;
  }
  .left {
    background: color-mix(in srgb, var(--ink) 16%, transparent);
  }
  .over {
    background: var(--state-active);
  }
  .excluded {
    background: repeating-linear-gradient(45deg, var(--ink-soft) 0 1.5px, transparent 1.5px 5px);
  }
  .holdout {
    background: radial-gradient(circle, var(--ink-state) 1.5px, transparent 1.6px) 0 0 / 6px 6px;
  }
</style>
