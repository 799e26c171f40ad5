<script lang="ts">
  import type { Schemas } from "../lib/api/client";
  import { number } from "../lib/format";
  import { audienceOf } from "../lib/groups";
  import { listed } from "./people";

  /** What can be done with people picked by hand. */
  let { chosen = $bindable() }: { chosen: Schemas["PersonRow"][] } = $props();
</script>

<span>{number(chosen.length)} picked:</span>
<a href={audienceOf(listed(chosen))}>write them as a list</a>
<button class="underline" onclick={() => (chosen = [])}>pick none</button>
