<script lang="ts">
  import { day } from "../lib/format";
  import { workspace } from "../lib/workspace.svelte";
  import DateField from "../ui/DateField.svelte";
  import { put } from "./codec";

  /** From which day on something is looked at, up to the as-of date, as phrases of a sentence. */
  let { from }: { from: string } = $props();
</script>

from <DateField
  phrase
  label="From"
  value={from}
  most={workspace.asOf}
  change={(date) => put({ from: date })}
/>
to {day(workspace.asOf)}
