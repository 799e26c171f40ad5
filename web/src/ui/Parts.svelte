<script lang="ts">
  import { address } from "../lib/address.svelte";

  /** The head of a place that has parts: its name, and the way to each of them. */
  let {
    name,
    path,
    parts,
    part,
  }: {
    name: string;
    path: string;
    /** Key, which is the end of the address and empty for the first, and name. */
    parts: readonly (readonly [string, string])[];
    part: string;
  } = $props();
</script>

<div class="flex flex-wrap items-baseline gap-x-8 gap-y-1">
  <h1>{name}</h1>
  <nav aria-label="Parts of {name}" class="flex flex-wrap gap-x-5 gap-y-1">
    {#each parts as [key, title] (key)}
      <a
        href={address.to(key ? `${path}/${key}` : path)}
        aria-current={part === key ? "page" : undefined}
        class="border-b-2 border-transparent pb-0.5 no-underline aria-[current=page]:border-(--ink) aria-[current=page]:font-semibold"
        >{title}</a
      >
    {/each}
  </nav>
</div>
