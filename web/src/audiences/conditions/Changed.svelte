<script lang="ts" module>
  import { remember } from "../../lib/recent";
  import { attributeOptions } from "../editor/choices";
  import type { Condition, PhraseProps } from "./condition";

  export const condition: Condition = {
    keys: ["changed"],
    phrases: { attribute: "Attribute", changed: "What changed" },
    offers: [
      {
        about: "who",
        text: "whose attribute changed …",
        ask: "Attribute",
        options: attributeOptions,
        begin: (name) => {
          remember("attribute", name);
          return { changed: { name, window: { last_days: 30 } } };
        },
        then: "window",
      },
    ],
  };
</script>

<script lang="ts">
  import type { Changed } from "../definition";
  import AttributeChoice from "../editor/AttributeChoice.svelte";
  import { newAttribute } from "../editor/values";

  /** Which attribute changed, and whether from or to certain values only. */
  let { slot, piece, put, close }: PhraseProps<Changed> = $props();

  async function bound(name: "from" | "to", on: boolean) {
    const next = { ...piece };
    delete next[name];
    const { compare, value } = await newAttribute(piece.name);
    put(on ? { ...next, [name]: { compare, value } } : next);
  }
</script>

{#if slot === "attribute"}
  <AttributeChoice value={piece.name} choose={(name) => put({ name, window: piece.window })} {close} />
{:else}
  {#each ["from", "to"] as const as name (name)}
    <label class="flex items-center gap-2 py-0.5">
      <input
        type="checkbox"
        checked={Boolean(piece[name])}
        onchange={(event) => bound(name, event.currentTarget.checked)}
      />
      only {name} certain values
    </label>
  {/each}
{/if}
