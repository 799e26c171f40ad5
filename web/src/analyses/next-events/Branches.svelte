<script lang="ts">
  import type { Schemas } from "../../lib/api/client";
  import { duration, number, percent } from "../../lib/format";
  import { peopleOf } from "../../lib/groups";

  /**
   * The ways people went, as strips that split: each column is one event further on, and a strip is as high as the part of
   * the times that went this way. What ended, or is put together, is left pale. Each strip opens into its people.
   */
  let { data, label }: { data: Picture; label: string } = $props();

  type Picture = Schemas["NextEventsPicture"];
  type Branch = Schemas["NextBranch"];
  type Strip = {
    column: number;
    top: number;
    height: number;
    ink: number;
    title: string;
    says: string;
    said: string;
    href: string | null;
  };
  const HEIGHT = 380;
  const INKS = 6;
  /** A strip has room for its name from this height on. */
  const NAMED = 17;
  const GAP = 1;
  let width = $state(800);
  const column = $derived(width / (data.depth + 1));
  const after = $derived(data.direction === "after");
  const left = (place: number) => (after ? place : data.depth - place) * column;

  /** The branches of one place, from the top down, and what is left of it. */
  function strips(branches: Branch[], place: number, top: number, height: number, all: number, ink?: number) {
    // Where several events are tied, their times are more than there are.
    const sum = branches.reduce((so_far, { times }) => so_far + times, 0);
    const scale = height / Math.max(1, all, sum);
    let at = top;
    return branches.flatMap((branch, index): Strip[] => {
      const own = ink ?? index % INKS;
      const high = branch.times * scale;
      const strip = {
        ...{ column: place, top: at, height: high, ink: own, title: branch.name },
        said: `${percent(branch.times / Math.max(1, data.times))}`,
        says: `${branch.name}: ${number(branch.times)} times, ${percent(branch.share)} of the previous step, ${number(branch.people)} people, median ${duration(branch.wait)}`,
        href: peopleOf([branch.did]),
      };
      at += high;
      const deeper = high >= 2 ? strips(branch.branches, place + 1, strip.top, high, branch.times, own) : [];
      return [strip, ...deeper];
    });
  }

  const first = $derived<Strip>({
    ...{ column: 0, top: 0, height: HEIGHT, ink: -1, title: data.name },
    said: `${number(data.times)}×`,
    says: `${data.name}: ${number(data.times)} times, ${number(data.people)} people`,
    href: peopleOf([data.did]),
  });
  const drawn = $derived([first, ...strips(data.branches, 1, 0, HEIGHT, data.times)]);
  const fill = (strip: Strip) => (strip.ink < 0 ? "var(--ink-soft)" : `var(--comparison-${strip.ink})`);
  /** As much of a name as there is room for beside its figure; nothing of it where that is too little. */
  function short({ title, said }: Strip): string {
    const room = Math.floor((column - 20) / 7) - said.length - 1;
    if (title.length <= room) return `${title} `;
    return room < 4 ? "" : `${title.slice(0, room - 1)}… `;
  }
</script>

<div class="mt-1" bind:clientWidth={width}>
  <svg viewBox="0 0 {width} {HEIGHT}" {width} height={HEIGHT} role="group" aria-label={label}>
    {#each Array.from({ length: data.depth + 1 }, (_, place) => place) as place (place)}
      <rect
        x={left(place)}
        y="0"
        width={column - 2}
        height={HEIGHT}
        fill="var(--rule)"
        opacity={place ? 0.35 : 0}
      />
    {/each}
    {#each drawn as strip, index (index)}
      <a href={strip.href} aria-label="{short(strip)}{strip.said}: {strip.says}">
        <rect
          x={left(strip.column)}
          y={strip.top}
          width={column - 2}
          height={Math.max(0.5, strip.height - GAP)}
          fill={fill(strip)}
          opacity={strip.column ? 0.3 : 0.18}><title>{strip.says}</title></rect
        >
        <rect
          x={left(strip.column) + (after ? 0 : column - 6)}
          y={strip.top}
          width="4"
          height={Math.max(0.5, strip.height - GAP)}
          fill={fill(strip)}
        />
        {#if strip.height >= NAMED}
          <text x={left(strip.column) + 10} y={strip.top + 14} class="fill-(--ink) text-[13px]"
            >{short(strip)}<tspan font-weight="600">{strip.said}</tspan></text
          >
        {/if}
      </a>
    {/each}
  </svg>
</div>
