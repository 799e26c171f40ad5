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
  aria-label="{name} as an audience"
  href={audienceOf(conditions, asOf)}>as an audience</a
>
