<script lang="ts">
  import { untrack } from "svelte";
  import { problemOf } from "../lib/api/client";

  /** A line of text that is edited where it stands; Enter or leaving it keeps it, Escape takes it back. */
  let {
    text,
    label,
    keep,
    placeholder = "Add description",
    most = 1000,
  }: {
    text: string;
    label: string;
    keep: (text: string) => Promise<void>;
    placeholder?: string;
    /** How long it can be. */
    most?: number;
  } = $props();

  let draft = $state(untrack(() => text));
  let fault = $state("");

  async function leave() {
    if (draft.trim() === text) return;
    try {
      await keep(draft.trim());
      fault = "";
    } catch (error) {
      fault = problemOf(error).detail;
    }
  }

  function pressed(event: KeyboardEvent & { currentTarget: HTMLInputElement }) {
    if (event.key === "Enter") event.currentTarget.blur();
    if (event.key === "Escape") draft = text;
  }
</script>

<input
  class="min-h-6.5! w-full min-w-16 border-transparent! bg-transparent! px-1! py-0! hover:border-(--rule-strong)! focus:border-(--rule-strong)!"
  {placeholder}
  maxlength={most}
  aria-label={label}
  bind:value={draft}
  onblur={leave}
  onkeydown={pressed}
/>
{#if fault}<span role="alert" class="small text-(--alarm)">{fault}</span>{/if}
