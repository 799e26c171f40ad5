<script lang="ts">
  import { comparison } from "../audiences/comparison.svelte";
  import ComparedNames from "../audiences/ComparedNames.svelte";
  import { address } from "../lib/address.svelte";
  import { put } from "./codec";
  import SplitBy from "./SplitBy.svelte";

  /** By what people are told apart, at the end of a sentence: one or two things, or the audiences of the comparison. */
  let {
    split,
    overTime = false,
    choose = (by) => put({ by: by || null }),
  }: {
    /** Whether the address names something by which they are. */
    split: boolean;
    /** See {@link SplitBy}. */
    overTime?: boolean;
    choose?: (by: string) => void;
  } = $props();
</script>

split by <SplitBy
  phrase
  twice
  {overTime}
  value={split ? (address.get("by") ?? "") : ""}
  none={comparison.active.length ? "the comparison" : "nothing (no split)"}
  {choose}
/>{#if !split && comparison.active.length}: <ComparedNames />{/if}
