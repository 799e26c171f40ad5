<script lang="ts">
  import { tick } from "svelte";

  /** Removes a row of a table for good, once that has been confirmed in place. */
  let {
    name,
    remove,
    verb = "Remove",
  }: {
    name: string;
    remove: () => Promise<unknown>;
    verb?: string;
  } = $props();

  let asking = $state(false);
  let yes = $state<HTMLButtonElement>();
  let first = $state<HTMLButtonElement>();

  async function ask() {
    asking = true;
    await tick();
    yes?.focus();
  }

  async function leave() {
    asking = false;
    await tick();
    first?.focus();
  }
</script>

{#if asking}
  <span role="group" aria-label="{verb} {name}?" class="inline-flex gap-2">
    <button
      class="quiet text-(--alarm)!"
      bind:this={yes}
      onkeydown={(event) => event.key === "Escape" && leave()}
      onclick={() => {
        asking = false;
        void remove();
      }}>{verb} permanently</button
    >
    <button class="quiet" onclick={leave}>Cancel</button>
  </span>
{:else}
  <button class="quiet" aria-label="{verb} {name}" bind:this={first} onclick={ask}>{verb}</button>
{/if}
