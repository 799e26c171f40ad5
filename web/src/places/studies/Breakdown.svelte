<script lang="ts">
  import { address } from "../../lib/address.svelte";
  import { answer, api, type Schemas } from "../../lib/api/client";
  import Downloads from "../../lib/components/Downloads.svelte";
  import SplitBy, { by } from "../../lib/components/SplitBy.svelte";
  import StateMark from "../../lib/components/StateMark.svelte";
  import TrayMark from "../../lib/components/TrayMark.svelte";
  import Waiting from "../../lib/components/Waiting.svelte";
  import { number, percent, points } from "../../lib/format";
  import { Resource } from "../../lib/resource.svelte";
  import type { State } from "../../lib/states";
  import { tray } from "../../lib/tray.svelte";
  import { workspace } from "../../lib/workspace.svelte";

  /** Everybody, or one or two of the tray's audiences, split by something. */
  type Row = Schemas["Breakdown"]["rows"][number];

  const split = $derived(address.get("by") ?? "state");
  const audiences = $derived(tray.active.slice(0, 2));
  const study = new Resource((signal) => {
    void workspace.policies;
    return answer(
      api.POST("/studies/breakdown", {
        body: { audiences, by: by(split) ?? { state: true }, ...workspace.dates },
        signal,
      }),
    );
  });
  const two = $derived(study.data?.totals.length === 2);
  const largest = $derived(Math.max(0.0001, ...(study.data?.rows.flatMap((row) => row.shares) ?? [])));
  const reach = $derived(
    Math.max(
      0.0001,
      ...(study.data?.rows.flatMap((row) =>
        row.difference ? [Math.abs(row.difference.low), Math.abs(row.difference.high)] : [],
      ) ?? []),
    ),
  );

  function name(row: Row): string {
    return row.kind === "other" ? "other" : row.kind === "not_set" ? "not set" : (row.value ?? "");
  }

  function definition(row: Row, index: number): string {
    const id = study.data!.ids[index];
    return JSON.stringify({ all: [...(id ? [{ audience: { id } }] : []), row.clause] });
  }

  /** Where a difference lies on the line that shows it. */
  function at(difference: number): number {
    return 60 + (56 * difference) / reach;
  }

  const taken = $derived(
    study.data?.rows.map((row) => ({
      value: name(row),
      ...Object.fromEntries(
        (study.data!.names.length ? study.data!.names : ["everybody"]).flatMap((one, index) => [
          [`${one}: people`, row.counts[index]!],
          [`${one}: share`, row.shares[index]!],
        ]),
      ),
      ...(two
        ? {
            difference: row.difference?.estimate ?? null,
            low: row.difference?.low ?? null,
            high: row.difference?.high ?? null,
          }
        : {}),
    })) ?? [],
  );
</script>

<div class="mt-4 flex flex-wrap items-center gap-x-4 gap-y-2">
  <label class="flex items-center gap-2">
    {audiences.length ? "These people" : "Everybody"} by
    <SplitBy value={split} choose={(value) => address.go(address.with({ by: value }), { replace: true })} />
  </label>
  <span class="ml-auto"><Downloads name="breakdown" rows={taken} /></span>
</div>
{#if tray.active.length > 2}<p class="soft small mt-1">
    Two at a time: the first two that are compared by in the tray.
  </p>{/if}
{#if tray.active.length === 0}<p class="soft small mt-1">
    Compare by one or two audiences of the tray to split those.
  </p>{/if}
{#if study.data && !study.problem}
  {@const data = study.data}
  <p class="says mt-3" data-testid="takeaway">{data.takeaway}</p>
  <div class="mt-3 overflow-x-auto">
    <table class="figures" aria-label="Breakdown" data-testid="breakdown">
      <thead>
        <tr>
          <th>Value</th>
          {#each data.totals as total, index (index)}
            <th class="number">
              {#if data.ids[index]}<span class="inline-flex items-center gap-2 align-middle"
                  ><TrayMark position={tray.position(data.ids[index]!)} />{data.names[index]}</span
                >{:else}People{/if}
              <span class="font-normal">({number(total)})</span>
            </th>
            <th class="number">Share</th>
          {/each}
          {#if two}<th class="pl-6!">Difference in points, 95 % interval</th>{/if}
        </tr>
      </thead>
      <tbody>
        {#each data.rows as row (row.kind + row.value)}
          <tr>
            <td class={row.kind === "value" ? "" : "soft"}>
              {#if split === "state" && row.value}<StateMark state={row.value as State} />{:else}{name(
                  row,
                )}{/if}
            </td>
            {#each row.counts as count, index (index)}
              <td class="number">
                <a class="font-semibold" href={address.to("/people", { definition: definition(row, index) })}
                  >{number(count)}</a
                >
                <a
                  class="soft small ml-2"
                  aria-label="{name(row)}{data.names[index] ? ` of ${data.names[index]}` : ''} as an audience"
                  href={address.to("/audiences/new", { definition: definition(row, index) })}
                  >as an audience</a
                >
              </td>
              <td class="number">
                <svg width="80" height="8" class="mr-2 inline" aria-hidden="true"
                  ><rect
                    width={(80 * row.shares[index]!) / largest}
                    height="8"
                    fill={data.ids[index]
                      ? `var(--tray-${tray.position(data.ids[index]!)})`
                      : "var(--ink-soft)"}
                  /></svg
                >{percent(row.shares[index]!)}
              </td>
            {/each}
            {#if two}
              <td class="pl-6!">
                {#if row.difference}
                  {@const clear = row.difference.low > 0 || row.difference.high < 0}
                  <svg width="120" height="16" class="mr-2 inline" aria-hidden="true">
                    <line x1="60" x2="60" y2="16" stroke="var(--rule-strong)" />
                    <line
                      x1={at(row.difference.low)}
                      x2={at(row.difference.high)}
                      y1="8"
                      y2="8"
                      stroke="var(--ink)"
                      stroke-width="1.5"
                    />
                    <circle
                      cx={at(row.difference.estimate)}
                      cy="8"
                      r="3.5"
                      fill={clear ? "var(--ink)" : "var(--paper)"}
                      stroke="var(--ink)"
                    />
                  </svg>
                  <span class={clear ? "font-semibold" : "soft"}>{points(row.difference.estimate)}</span>
                  <span class="soft small">{points(row.difference.low)} to {points(row.difference.high)}</span
                  >
                {/if}
              </td>
            {/if}
          </tr>
        {/each}
      </tbody>
    </table>
  </div>
  {#if two}
    <p class="soft small mt-2 max-w-prose">
      The difference is the second share minus the first, with Newcombe's interval for two independent groups;
      people who are in both count in both, which makes the interval wider than it needs to be. A filled mark:
      zero lies outside the interval.
    </p>
  {/if}
  {#if data.values > data.rows.length}<p class="soft small mt-1">
      {number(data.values)} different values; the most frequent are shown.
    </p>{/if}
{:else}
  <Waiting problem={study.problem} retry={() => study.reload()} />
{/if}
