<script lang="ts">
  import type { Snippet } from "svelte";
  import { session } from "../lib/session.svelte";

  /** What only some roles may do; the others read who can. */
  let {
    role,
    what,
    children,
  }: {
    role: "analyst" | "administrator";
    /** Completes "Only administrators can …"; nothing is said where it is empty. */
    what: string;
    children?: Snippet;
  } = $props();
</script>

{#if session.may(role)}
  {@render children?.()}
{:else if what}
  <p class="soft small mt-3">
    Only {role === "analyst" ? "analysts and administrators" : "administrators"} can {what}.
  </p>
{/if}
