<script lang="ts">
  import type { Popover as Popovers } from "@skeletonlabs/skeleton-svelte";
  import type { Snippet } from "svelte";
  import { firstIn, focusPanel } from "../lib/focus";

  /** A button with a panel that opens beside it; what that takes is loaded when it is first opened. */
  let {
    open = $bindable(false),
    button,
    panel = "",
    label,
    hint,
    title,
    below = false,
    trigger,
    children,
  }: {
    open?: boolean;
    /** Classes of the button, and of the panel. */
    button: string;
    panel?: string;
    /** Names of the button, where its contents do not say what it is; and over the panel. */
    label?: string;
    hint?: string;
    title?: string;
    /** Whether the panel begins where the button does. */
    below?: boolean;
    trigger: Snippet;
    children: Snippet;
  } = $props();

  let inside = $state<HTMLElement>();
  $effect(() => {
    if (inside) void focusPanel(inside);
  });

  let Popover = $state.raw<typeof Popovers | null>(null);

  $effect(() => {
    if (open && !Popover) void import("./popover").then((loaded) => (Popover = loaded.Popover));
  });
</script>

{#if Popover}
  <Popover
    {open}
    onOpenChange={(details) => (open = details.open)}
    initialFocusEl={() => (inside ? firstIn(inside) : null)}
    positioning={below ? { placement: "bottom-start" } : {}}
  >
    <Popover.Trigger class={button} title={hint} aria-label={label}>{@render trigger()}</Popover.Trigger>
    <Popover.Positioner class="z-40">
      <Popover.Content class="panel {panel}" aria-label={title ? undefined : label}>
        {#if open}
          {#if title}<Popover.Title class="mb-2 font-semibold">{title}</Popover.Title>{/if}
          <div bind:this={inside}>{@render children()}</div>
        {/if}
      </Popover.Content>
    </Popover.Positioner>
  </Popover>
{:else}
  <button
    type="button"
    class={button}
    title={hint}
    aria-label={label}
    aria-haspopup="dialog"
    aria-expanded="false"
    onclick={() => (open = true)}>{@render trigger()}</button
  >
{/if}
