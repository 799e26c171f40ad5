<script lang="ts">
  import { address } from "../lib/address.svelte";

  /** Whether a list shows all, one's own, or what is shared. */
  const CHOICES = [
    ["", "all owners"],
    ["mine", "mine"],
    ["shared", "shared"],
  ] as const;
</script>

<select
  aria-label="Owner"
  value={address.get("whose") ?? ""}
  onchange={(event) => address.go(address.with({ whose: event.currentTarget.value || null }))}
>
  {#each CHOICES as [key, text] (key)}<option value={key}>{text}</option>{/each}
</select>
