<script lang="ts" module>
  import type { Condition, PhraseProps } from "./condition";

  export const condition: Condition = {
    keys: ["profile_type"],
    phrases: { types: "Profile type" },
    offers: [
      {
        about: "who",
        text: "who are of a profile type …",
        ask: "Profile type",
        options: () => ["customer", "contact", "visitor"].map((type) => ({ value: type, text: `${type}s` })),
        begin: (type) => ({ profile_type: { is: [type as "customer"] } }),
      },
    ],
  };
</script>

<script lang="ts">
  import Checks from "../editor/Checks.svelte";

  /** Customers, contacts or visitors; one type at least. */
  let { piece, put }: PhraseProps<{ is: string[] }> = $props();

  const TYPES: [string, string][] = [
    ["customer", "customers"],
    ["contact", "contacts"],
    ["visitor", "visitors"],
  ];
</script>

<Checks options={TYPES} chosen={piece.is} change={(is) => put({ is })} />
