<script lang="ts">
  import type { Snippet } from "svelte";

  /** A phrase of a sentence that holds several things, chosen from a list that opens under it. */
  let {
    text,
    ink,
    options,
    choose,
    more,
  }: {
    text: string;
    ink: "who" | "what";
    options: { key: string; name: string; note?: string; on: boolean }[];
    choose: (key: string, on: boolean) => void;
    more?: Snippet;
  } = $props();

  let details = $state<HTMLDetailsElement>();
  let open = $state(false);
</script>

<svelte:document
  onclick={(event) => {
    if (!details?.contains(event.target as globalThis.Node)) open = false;
  }}
  onkeydown={(event) => {
    if (event.key !== "Escape" || !open) return;
    open = false;
    details?.querySelector("summary")?.focus();
  }}
/>
<details class="relative inline-block" bind:this={details} bind:open>
  <summary class="ink-{ink} cursor-pointer list-none">{text}</summary>
  <div
    class="panel absolute left-0 flex max-h-72 w-max max-w-[min(20rem,60vw)] flex-col gap-1 overflow-y-auto font-sans text-[0.95rem] leading-6"
  >
    {#each options as option (option.key)}
      <label
        ><input
          type="checkbox"
          checked={option.on}
          onchange={(event) => choose(option.key, event.currentTarget.checked)}
        />
        {option.name}
        {#if option.note}<span class="soft small">{option.note}</span>{/if}</label
      >
    {/each}
    {@render more?.()}
  </div>
</details>
