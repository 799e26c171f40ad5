<script lang="ts">
  import { audienceOf, type Clauses } from "../lib/groups";

  /** A way to keep a group of people. */
  let { name, clauses, asOf = null }: { name: string; clauses: Clauses; asOf?: string | null } = $props();
</script>

<a
  class="small leading-6 whitespace-nowrap"
  aria-label="{name} as an audience"
  href={audienceOf(clauses, asOf)}>as an audience</a
>
