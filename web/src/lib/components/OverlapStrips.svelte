<script lang="ts">
  import { address } from "../address.svelte";
  import type { Schemas } from "../api/client";
  import { number, percent } from "../format";
  import TrayMark from "./TrayMark.svelte";

  /**
   * Each audience as a strip as long as it is large, cut into its parts: first those in no other audience, then what it
   * shares. The part that is pointed at shows in every strip it belongs to.
   */
  let {
    data,
    positions,
    over,
    hover,
    name,
  }: {
    data: Schemas["Overlap"];
    positions: number[];
    over: string | null;
    hover: (key: string | null) => void;
    name: (region: Schemas["Overlap"]["regions"][number]) => string;
  } = $props();

  const WIDTH = 640;
  const HEIGHT = 22;
  const largest = $derived(Math.max(1, ...data.audiences.map((row) => row.count)));
  const strips = $derived(
    data.audiences.map((row, index) => {
      const parts = data.regions
        .filter((region) => region.count > 0 && region.inside.includes(index))
        .sort((a, b) => a.inside.length - b.inside.length || b.count - a.count);
      let x = 0;
      const cut = parts.map((region) => {
        const width = (WIDTH * region.count) / largest;
        const part = { key: name(region), x, width, count: region.count, alone: region.inside.length === 1 };
        x += width;
        return part;
      });
      return { ...row, cut };
    }),
  );
</script>

<ul class="mt-4 flex flex-col gap-2" data-testid="strips">
  {#each strips as strip, index (data.ids[index])}
    {@const position = positions[index]!}
    <li class="grid items-center gap-x-4 md:grid-cols-[16rem_1fr]">
      <span class="flex min-w-0 items-center gap-2">
        <TrayMark {position} />
        <a class="truncate" href={address.to(`/audiences/${data.ids[index]}`)}>{data.names[index]}</a>
      </span>
      <span class="flex min-w-0 flex-wrap items-center gap-x-3">
        <svg
          viewBox="0 0 {WIDTH} {HEIGHT}"
          class="h-[22px] w-full max-w-[640px]"
          preserveAspectRatio="none"
          role="img"
          aria-label="{data.names[index]}: {number(strip.count)} people, {number(
            strip.only,
          )} of them in no other"
        >
          {#each strip.cut as part (part.key)}
            <!-- svelte-ignore a11y_no_static_element_interactions -->
            <rect
              x={part.x}
              width={Math.max(0.5, part.width - 1)}
              height={HEIGHT}
              fill="var(--tray-{position})"
              fill-opacity={over === null ? (part.alone ? 0.95 : 0.4) : over === part.key ? 1 : 0.12}
              onmouseenter={() => hover(part.key)}
              onmouseleave={() => hover(null)}><title>{part.key}: {number(part.count)}</title></rect
            >
          {/each}
        </svg>
        <span class="small whitespace-nowrap">
          {number(strip.count)} <span class="soft">in all, {percent(strip.share)} of the base;</span>
          {number(strip.only)} <span class="soft">only here ({percent(strip.only_share)})</span>
        </span>
      </span>
    </li>
  {/each}
</ul>
