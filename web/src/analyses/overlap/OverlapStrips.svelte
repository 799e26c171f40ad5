<script lang="ts">
  import { linear } from "../../charts/scale";
  import type { Node } from "../../audiences/definition";
  import type { Schemas } from "../../lib/api/client";
  import { number, percent } from "../../lib/format";
  import { peopleOf } from "../../lib/groups";
  import { letter } from "../../audiences/comparison.svelte";

  /**
   * Each audience as a strip as long as it is large, cut into its parts: first those in no other audience, then what it
   * shares. The part that is pointed at shows in every strip it belongs to; each opens into its people.
   */
  let { data, positions }: { data: Schemas["OverlapPicture"]; positions: number[] } = $props();

  type Region = Schemas["OverlapPicture"]["regions"][number];
  const ROW = 60;
  const BAR = 24;
  const RIGHT = 250;
  let width = $state(1100);
  let over = $state<string | null>(null);
  const x = $derived(
    linear([0, Math.max(1, ...data.audiences.map((row) => row.count))], [0, Math.max(200, width - RIGHT)]),
  );
  const strips = $derived(
    data.audiences.map((row, index) => {
      const parts = data.regions
        .filter((region) => region.count > 0 && region.inside.includes(index))
        .sort((a, b) => a.inside.length - b.inside.length || b.count - a.count);
      let before = 0;
      const cut = parts.map((region) => {
        const part = { region, key: name(region), from: before, to: before + region.count };
        before += region.count;
        return part;
      });
      return { ...row, cut };
    }),
  );

  function name(region: Region): string {
    return region.inside.map((index) => letter(positions[index]!)).join("");
  }

  function definition(region: Region) {
    const inside = data.ids.map((id, index): Node =>
      region.inside.includes(index) ? { audience: { id } } : { not: { audience: { id } } },
    );
    return data.among ? [...inside, data.among as Node] : inside;
  }
</script>

<div bind:clientWidth={width}>
  <svg
    viewBox="0 0 {width} {strips.length * ROW}"
    {width}
    height={strips.length * ROW}
    role="group"
    aria-label="Audience overlap by segment"
    data-testid="strips"
  >
    {#each strips as strip, index (data.ids[index])}
      {@const ink = `var(--comparison-${positions[index]})`}
      <g transform="translate(0 {index * ROW})">
        <text y="15" class="text-[14px]" fill={ink} font-weight="600"
          >{letter(positions[index]!)} {data.names[index]}</text
        >
        {#each strip.cut as part (part.key)}
          <a
            class="no-underline"
            href={peopleOf(definition(part.region))}
            aria-label="Only in {part.key}: {number(part.region.count)}"
            onmouseenter={() => (over = part.key)}
            onmouseleave={() => (over = null)}
            onfocus={() => (over = part.key)}
            onblur={() => (over = null)}
          >
            <rect
              x={x(part.from)}
              y="22"
              width={Math.max(0.5, x(part.to) - x(part.from) - 1)}
              height={BAR}
              fill={ink}
              fill-opacity={over === null
                ? part.region.inside.length === 1
                  ? 0.95
                  : 0.4
                : over === part.key
                  ? 1
                  : 0.12}><title>{part.key}: {number(part.region.count)}</title></rect
            >
            {#if x(part.to) - x(part.from) > 44}
              <text
                x={x(part.from) + 6}
                y="39"
                class="text-[12px]"
                fill={part.region.inside.length === 1 && (over === null || over === part.key)
                  ? "var(--paper)"
                  : "var(--ink)"}>{part.key}</text
              >
            {/if}
          </a>
        {/each}
        <text x={x(strip.count) + 8} y="34" class="fill-(--ink) text-[13px]"
          >{number(strip.count)}<tspan class="fill-(--ink-soft)"
            >, {percent(strip.share)} of {data.among ? "the base" : "all people"}</tspan
          ></text
        >
        <text x={x(strip.count) + 8} y="49" class="fill-(--ink-soft) text-[12px]"
          >{number(strip.only)} only here ({percent(strip.only_share)})</text
        >
      </g>
    {/each}
  </svg>
</div>
