<script lang="ts">
  import { session } from "../lib/session.svelte";

  /** The workspaces one may go to. */
</script>

<ul data-testid="workspaces">
  {#each session.account?.workspaces ?? [] as one (one.name)}
    <li class="py-0.5">
      {#if one.here}<span class="font-semibold" aria-current="true">{one.title}</span>{:else}<a
          href="{one.base}/"
          target="_self">{one.title}</a
        >{/if}
      <span class="soft small ml-1">as {one.role}</span>
    </li>
  {/each}
</ul>
