<script lang="ts" module>
  import { remember } from "../../lib/recent";
  import { attributeOptions } from "../editor/choices";
  import { newAttribute } from "../editor/values";
  import type { Condition, PhraseProps } from "./condition";

  export const condition: Condition = {
    keys: ["attribute"],
    phrases: { attribute: "Attribute", on: "Date" },
    offers: [
      {
        about: "who",
        text: "whose attribute …",
        first: true,
        ask: "Attribute",
        options: attributeOptions,
        begin: async (name) => {
          remember("attribute", name);
          return { attribute: await newAttribute(name) };
        },
        then: "value",
      },
    ],
  };
</script>

<script lang="ts">
  import DateField from "../../ui/DateField.svelte";
  import { workspace } from "../../lib/workspace.svelte";
  import type { Attribute } from "../definition";
  import AttributeChoice from "../editor/AttributeChoice.svelte";

  /** Which attribute, and as of when; it is asked for what is likely of it then. */
  let { slot, piece, put, close }: PhraseProps<Attribute> = $props();

  async function choose(name: string) {
    put({ ...(await newAttribute(name)), ...(piece.on ? { on: piece.on } : {}) });
  }

  function asOf(on: string | null) {
    const rest = { ...piece };
    delete rest.ever;
    delete rest.on;
    put(on ? { ...rest, on } : rest);
  }
</script>

{#if slot === "attribute"}<AttributeChoice value={piece.name} {choose} {close} />{/if}
<div class="mt-3 flex flex-wrap items-center gap-2">
  {#if piece.on}
    as of <DateField label="As of" value={piece.on} change={asOf} />
    <button class="quiet" onclick={() => asOf(null)}>at the as-of date</button>
  {:else}<button class="quiet" onclick={() => asOf(workspace.asOf)}>as of a date …</button>{/if}
</div>
