<script lang="ts">
  import type { Snippet } from "svelte";

  /**
   * Adds one of several things to a list. It is added on confirmation: arrow keys, which choose in a closed list, only
   * move through what there is.
   */
  let {
    what,
    add,
    children,
  }: {
    /** "a column" */
    what: string;
    add: (value: string) => void;
    /** The options. */
    children: Snippet;
  } = $props();

  let value = $state("");

  function confirm() {
    if (!value) return;
    add(value);
    value = "";
  }
</script>

<span class="inline-flex items-center gap-1">
  <select
    aria-label="Add {what}"
    bind:value
    onkeydown={(event) => {
      if (event.key !== "Enter") return;
      event.preventDefault();
      confirm();
    }}
  >
    <option value="" disabled>Add {what} …</option>
    {@render children()}
  </select>
  <button type="button" class="quiet" aria-label="Add {what}, as chosen" disabled={!value} onclick={confirm}
    >Add</button
  >
</span>
