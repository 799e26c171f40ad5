<script lang="ts">
  import { address } from "../lib/address.svelte";

  /** Whether a list shows all, one's own, or what is shared. */
  const CHOICES = [
    ["", "everybody’s"],
    ["mine", "mine"],
    ["shared", "shared"],
  ] as const;
</script>

<select
  aria-label="Whose"
  value={address.get("whose") ?? ""}
  onchange={(event) => address.go(address.with({ whose: event.currentTarget.value || null }))}
>
  {#each CHOICES as [key, text] (key)}<option value={key}>{text}</option>{/each}
</select>
