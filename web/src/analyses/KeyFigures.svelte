<script lang="ts">
  /** Figures beside a picture, a line each, under what they are figures of. */
  let { title, figures }: { title: string; figures: (readonly [string, string])[] } = $props();
</script>

<p class="soft small mt-4 first:mt-0">{title}</p>
<dl class="mt-1">
  {#each figures as [name, value] (name)}
    <div class="flex items-baseline justify-between gap-2 border-b border-(--rule) py-1.5">
      <dt>{name}</dt>
      <dd class="font-semibold whitespace-nowrap tabular-nums">{value}</dd>
    </div>
  {/each}
</dl>
