<script lang="ts">
  import { number, percent } from "../../lib/format";
  import { colourOf } from "../inks";
  import type { Line } from "./question";

  /** Which groups stand in the picture, how many began, and what share got to the end. */
  let { lines }: { lines: Line[] } = $props();
</script>

<ul>
  {#each lines as line, index (index)}
    <li class="border-b border-(--rule) py-1.5">
      <div class="flex items-baseline gap-2">
        <span
          class="inline-block h-3 w-3 shrink-0"
          style="background: {colourOf(line, index)}"
          aria-hidden="true"
        ></span>
        <span class="mr-auto">{line.name}</span>
        <span class="tabular-nums">{number(line.steps[0]!.people)}</span>
      </div>
      <p class="pl-5 font-semibold tabular-nums">
        {line.steps.at(-1)!.share === null ? "–" : percent(line.steps.at(-1)!.share!)}
        <span class="soft font-normal">to the end</span>
      </p>
    </li>
  {/each}
</ul>
