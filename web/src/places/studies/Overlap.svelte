<script lang="ts">
  import { address } from "../../lib/address.svelte";
  import { answer, api, type Schemas } from "../../lib/api/client";
  import Downloads from "../../lib/components/Downloads.svelte";
  import OverlapStrips from "../../lib/components/OverlapStrips.svelte";
  import SplitBy, { by } from "../../lib/components/SplitBy.svelte";
  import TrayMark from "../../lib/components/TrayMark.svelte";
  import Waiting from "../../lib/components/Waiting.svelte";
  import { number, percent, times } from "../../lib/format";
  import { Resource } from "../../lib/resource.svelte";
  import { letter, tray } from "../../lib/tray.svelte";
  import { workspace } from "../../lib/workspace.svelte";

  /** Every exact combination of the tray's audiences. */
  type Region = Schemas["Overlap"]["regions"][number];
  const ORDERS: Record<string, [string, (a: Region, b: Region) => number]> = {
    size: ["largest first", (a, b) => b.count - a.count],
    lift: ["most above chance first", (a, b) => (b.lift ?? 0) - (a.lift ?? 0)],
    many: ["in most audiences first", (a, b) => b.inside.length - a.inside.length || b.count - a.count],
    letters: ["by letters", (a, b) => name(a).localeCompare(name(b))],
  };
  const SMALL = 0.01;

  const split = $derived(address.get("by") ?? "");
  const order = $derived(address.get("order") ?? "size");
  const hide = $derived(address.get("small") === "hidden");
  const study = new Resource(async (signal) => {
    void workspace.policies;
    const audiences = tray.active;
    if (audiences.length < 2) return null;
    return answer(
      api.POST("/studies/overlap", { body: { audiences, by: by(split), ...workspace.dates }, signal }),
    );
  });
  let over = $state<string | null>(null);
  let chosen = $state<string[]>([]);

  const positions = $derived((study.data?.ids ?? []).map((id) => tray.position(id)));
  const rows = $derived.by(() => {
    const data = study.data;
    if (!data) return [];
    const kept = data.regions.filter(
      (row) => row.count > 0 && (!hide || row.count / Math.max(1, data.any) >= SMALL),
    );
    return kept.sort((ORDERS[order] ?? ORDERS.size!)[1]);
  });
  const largest = $derived(Math.max(1, ...rows.map((row) => row.count)));
  const picked = $derived(rows.filter((row) => chosen.includes(name(row))));

  function name(region: Region): string {
    return region.inside.map((index) => letter(positions[index]!)).join("");
  }

  /** "A and B, not C" */
  function said(region: Region): string {
    const letters = positions.map((position) => letter(position));
    const inside = region.inside.map((index) => letters[index]);
    const outside = letters.filter((one) => !inside.includes(one));
    return `${inside.join(" and ")}${outside.length ? `, not ${outside.join(" or ")}` : ""}`;
  }

  function node(region: Region) {
    return {
      all: study.data!.ids.map((id, index) =>
        region.inside.includes(index) ? { audience: { id } } : { not: { audience: { id } } },
      ),
    };
  }

  function definition(regions: Region[]): string {
    return JSON.stringify(regions.length === 1 ? node(regions[0]!) : { all: [{ any: regions.map(node) }] });
  }

  function toggle(region: Region) {
    const key = name(region);
    chosen = chosen.includes(key) ? chosen.filter((other) => other !== key) : [...chosen, key];
  }

  function column(part: { kind: string; value: string | null }): string {
    return part.kind === "other" ? "other" : part.kind === "not_set" ? "not set" : (part.value ?? "");
  }

  const taken = $derived(
    study.data
      ? rows.map((row) => ({
          in: said(row),
          people: row.count,
          share_of_base: row.share,
          times_chance: row.lift,
          ...Object.fromEntries(study.data!.columns.map((one, index) => [column(one), row.split[index]!])),
        }))
      : [],
  );
</script>

{#if tray.active.length < 2}
  <p class="says mt-6">Put two to six audiences into the tray to see how they overlap.</p>
  <p class="mt-2">
    <a href={address.to("/audiences")}>Go to the audiences</a> and pin some; the tray is at the bottom edge.
  </p>
{:else if study.data && study.data.ids.join() === tray.active.join()}
  {@const data = study.data}
  <p class="says mt-3" data-testid="takeaway">{data.takeaway}</p>

  <OverlapStrips {data} {positions} {over} hover={(key) => (over = key)} {name} />

  <div class="mt-6 flex flex-wrap items-center gap-x-4 gap-y-2">
    <h2>Every combination</h2>
    <select
      aria-label="Order"
      value={order}
      onchange={(event) => address.go(address.with({ order: event.currentTarget.value }), { replace: true })}
    >
      {#each Object.entries(ORDERS) as [key, [text]] (key)}<option value={key}>{text}</option>{/each}
    </select>
    <label class="flex items-center gap-2">
      split by <SplitBy
        value={split}
        none="nothing"
        choose={(value) => address.go(address.with({ by: value || null }), { replace: true })}
      />
    </label>
    <label class="flex items-center gap-2">
      <input
        type="checkbox"
        checked={hide}
        onchange={(event) =>
          address.go(address.with({ small: event.currentTarget.checked ? "hidden" : null }), {
            replace: true,
          })}
      /> hide those under 1 %
    </label>
    <span class="ml-auto"><Downloads name="overlap" rows={taken} /></span>
  </div>
  <div class="mt-2 overflow-x-auto">
    <table class="figures" aria-label="Every combination" data-testid="regions">
      <thead>
        <tr>
          <th><span class="sr-only">Chosen</span></th>
          <th>In exactly</th>
          <th class="number">People</th>
          <th class="number">of the base</th>
          <th class="number">against chance</th>
          {#each data.columns as part, index (index)}<th class="number">{column(part)}</th>{/each}
          <th><span class="sr-only">Actions</span></th>
        </tr>
      </thead>
      <tbody>
        {#each rows as row (name(row))}
          {@const key = name(row)}
          <tr
            class={over === key ? "bg-(--paper-deep)" : ""}
            onmouseenter={() => (over = key)}
            onmouseleave={() => (over = null)}
            onfocusin={() => (over = key)}
          >
            <td
              ><input
                type="checkbox"
                aria-label="Choose {said(row)}"
                checked={chosen.includes(key)}
                onchange={() => toggle(row)}
              /></td
            >
            <td>
              <span class="inline-flex items-center gap-1" title={said(row)}>
                {#each positions as position, index (position)}
                  {#if row.inside.includes(index)}<TrayMark {position} />{:else}<span
                      class="soft inline-block w-5 text-center"
                      aria-hidden="true">·</span
                    >{/if}
                {/each}
                <span class="sr-only">{said(row)}</span>
              </span>
            </td>
            <td class="number font-semibold">
              <svg width="90" height="8" class="mr-2 inline" aria-hidden="true"
                ><rect
                  x={90 - (90 * row.count) / largest}
                  width={(90 * row.count) / largest}
                  height="8"
                  fill="var(--ink-soft)"
                /></svg
              ><a href={address.to("/people", { definition: definition([row]) })}>{number(row.count)}</a>
            </td>
            <td class="number">{percent(row.share)}</td>
            <td class="number">{times(row.lift)}</td>
            {#each row.split as part, index (index)}<td class="number">{part ? number(part) : "–"}</td>{/each}
            <td class="number"
              ><a href={address.to("/audiences/new", { definition: definition([row]) })}>as an audience</a
              ></td
            >
          </tr>
        {/each}
      </tbody>
    </table>
  </div>
  <p class="mt-2 min-h-8" aria-live="polite">
    {#if picked.length}
      {number(picked.reduce((sum, row) => sum + row.count, 0))} people in the {picked.length} chosen:
      <a class="ml-2" href={address.to("/people", { definition: definition(picked) })}>see them</a>
      <a class="ml-2" href={address.to("/audiences/new", { definition: definition(picked) })}
        >make them an audience</a
      >
    {/if}
  </p>

  <h2 class="mt-4">Two by two</h2>
  <div class="overflow-x-auto">
    <table class="figures max-w-[52rem]" aria-label="Two by two">
      <thead>
        <tr
          ><th>Both</th><th class="number">People</th><th class="number">of the first</th><th class="number"
            >of the second</th
          ><th class="number">against chance</th></tr
        >
      </thead>
      <tbody>
        {#each data.pairs as row (row.pair.join())}
          {@const [one, other] = row.pair as [number, number]}
          <tr>
            <td>
              <span class="inline-flex items-center gap-2"
                ><TrayMark position={positions[one]!} />{data.names[one]} <span class="soft">and</span>
                <TrayMark position={positions[other]!} />{data.names[other]}</span
              >
            </td>
            <td class="number font-semibold">{number(row.count)}</td>
            <td class="number">{percent(row.shares[0]!)}</td>
            <td class="number">{percent(row.shares[1]!)}</td>
            <td class="number">{times(row.lift)}</td>
          </tr>
        {/each}
      </tbody>
    </table>
  </div>
  <p class="soft small mt-2 max-w-prose">
    Against chance: how many times as many people as there would be if being in one audience said nothing
    about being in another.
  </p>
{:else}
  <Waiting problem={study.problem} retry={() => study.reload()} />
{/if}
