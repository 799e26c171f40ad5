<script lang="ts">
  import { address } from "../lib/address.svelte";
  import type { Schemas } from "../lib/api/client";
  import { session } from "../lib/session.svelte";
  import CompareButton from "./CompareButton.svelte";

  /** What can be done with the audience on the page; viewers can only compare by it. */
  let {
    kept,
    dirty,
    ready,
    copy,
    save,
    revert,
    remove,
  }: {
    kept: Schemas["Audience"] | null;
    /** Whether anything has been changed. */
    dirty: boolean;
    /** Whether it can be saved. */
    ready: boolean;
    /** The address of a copy. */
    copy: string;
    save: () => void;
    revert: () => void;
    remove: () => void;
  } = $props();

  const writes = $derived(session.may("analyst"));
</script>

{#if writes}
  <button class="act" onclick={save} disabled={!ready}>Save</button>
{:else}
  <span class="soft small">Only analysts and administrators can save changes.</span>
{/if}
{#if kept}
  {#if dirty}<button class="quiet" onclick={revert}>Discard changes</button>{/if}
  <CompareButton id={kept.id} name={kept.name} />
  {#if writes}
    <a class="quiet" href={copy}>Duplicate</a>
    <a class="quiet" href={address.to("/exports/new", { audience: String(kept.id) })}>Export</a>
    <button class="quiet" onclick={remove}>Delete</button>
  {/if}
{/if}
