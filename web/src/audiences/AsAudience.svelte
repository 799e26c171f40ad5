<script lang="ts">
  import { audienceOf, type Conditions } from "../lib/groups";

  /** A way to keep a group of people. */
  let {
    name,
    conditions,
    asOf = null,
  }: { name: string; conditions: Conditions; asOf?: string | null } = $props();
</script>

<a
  class="small leading-6 whitespace-nowrap"
  aria-label="Create audience: {name}"
  href={audienceOf(conditions, asOf)}>Create audience</a
>
