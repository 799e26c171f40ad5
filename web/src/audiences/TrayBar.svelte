<script lang="ts">
  import { address } from "../lib/address.svelte";
  import { tray } from "./tray.svelte";
  import TrayMark from "./TrayMark.svelte";

  /** The tray along the bottom edge: a click on an audience compares by it or not. */
  $effect(() => {
    if (tray.pinned.length) void tray.load();
  });
</script>

{#if tray.pinned.length}
  <aside
    class="sticky bottom-0 z-20 border-t border-(--rule-strong) bg-(--paper-deep)"
    aria-label="Tray"
    data-testid="tray"
  >
    <div class="mx-auto flex max-w-[1200px] flex-wrap items-center gap-x-5 gap-y-1 px-6 py-2">
      <span class="soft small">compare by</span>
      {#each tray.pinned as row, position (row.id)}
        <span class="inline-flex items-center gap-1">
          <button
            class="inline-flex max-w-56 cursor-pointer items-center gap-2"
            aria-pressed={row.on}
            title={row.on ? "compared by; a click leaves it out" : "left out; a click compares by it"}
            onclick={() => tray.toggle(row.id)}
          >
            <TrayMark {position} faint={!row.on} />
            <span class="truncate {row.on ? '' : 'soft line-through'}">{tray.name(row.id)}</span>
          </button>
          <button
            class="soft cursor-pointer px-1"
            aria-label="Take {tray.name(row.id)} out of the tray"
            onclick={() => tray.unpin(row.id)}>×</button
          >
        </span>
      {/each}
      <span class="ml-auto flex gap-3">
        {#if tray.active.length > 1}
          <a href={address.to("/analyses/overlap")}>How they overlap</a>
        {/if}
        <a href={address.to("/analyses/breakdown")}>What they are made of</a>
      </span>
    </div>
  </aside>
{/if}
