<script lang="ts" module>
  import type { Condition, PhraseProps } from "./condition";

  export const condition: Condition = {
    keys: ["kind"],
    phrases: { kinds: "Kind" },
    offers: [{ about: "who", text: "who are of a kind …", begin: () => ({ kind: { is: ["customer"] } }) }],
  };
</script>

<script lang="ts">
  import Checks from "../editor/Checks.svelte";

  /** Customers, contacts or visitors; one kind at least. */
  let { piece, put }: PhraseProps<{ is: string[] }> = $props();

  const KINDS: [string, string][] = [
    ["customer", "customers"],
    ["contact", "contacts"],
    ["visitor", "visitors"],
  ];
</script>

<Checks options={KINDS} chosen={piece.is} change={(is) => put({ is })} />
