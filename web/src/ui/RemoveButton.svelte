<script lang="ts">
  /** Removes a row of a table. */
  let { name, remove }: { name: string; remove: () => Promise<unknown> } = $props();
</script>

<button class="quiet" aria-label="Remove {name}" onclick={remove}>Remove</button>
