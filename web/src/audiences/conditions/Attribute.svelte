<script lang="ts" module>
  import { remember } from "../../lib/recent";
  import { attributeOptions } from "../editor/choices";
  import { newAttribute } from "../editor/values";
  import type { Condition, PhraseProps } from "./condition";

  export const condition: Condition = {
    keys: ["attribute"],
    phrases: { attribute: "Attribute" },
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
  import type { Attribute } from "../definition";
  import AttributeChoice from "../editor/AttributeChoice.svelte";

  /** Which attribute; it is asked for what is likely of it then. */
  let { piece, put, close }: PhraseProps<Attribute> = $props();

  async function choose(name: string) {
    put(await newAttribute(name));
  }
</script>

<AttributeChoice value={piece.name} {choose} {close} />
