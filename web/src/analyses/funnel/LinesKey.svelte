<script lang="ts">
  import { number, percent } from "../../lib/format";
  import { colourOf } from "../inks";
  import KeyLine from "../KeyLine.svelte";
  import type { Line } from "./question";

  /** Which groups stand in the picture, how many began, and what share got to the end. */
  let { lines }: { lines: Line[] } = $props();
</script>

<ul>
  {#each lines as line, index (index)}
    <KeyLine name={line.name} colour={colourOf(line, index)} figure={number(line.steps[0]!.people)}>
      <p class="pl-5 font-semibold tabular-nums">
        {line.steps.at(-1)!.share === null ? "–" : percent(line.steps.at(-1)!.share!)}
        <span class="soft font-normal">completed</span>
      </p>
    </KeyLine>
  {/each}
</ul>
