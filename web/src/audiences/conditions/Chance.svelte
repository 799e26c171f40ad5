<script lang="ts" module>
  import { ask } from "../../lib/api/ask";
  import { workspace } from "../../lib/workspace.svelte";
  import type { Chance } from "../definition";
  import type { Condition, PhraseProps } from "./condition";

  const WITHIN = 30;
  const LIKELY = 0.2;

  export const condition: Condition = {
    keys: ["chance"],
    phrases: { range: "Chance" },
    offers: [
      {
        about: "state",
        text: "whose reactivation or lapse probability…",
        ask: "Propensity",
        options: () => [
          { value: "come_back", text: `reactivation within ${WITHIN} days` },
          { value: "lapse", text: `lapse within ${WITHIN} days` },
        ],
        begin: async (of) => {
          const question = { of: of as Chance["model"]["of"], within_days: WITHIN, as_of: workspace.asOf };
          const { picture } = await ask("chance", question);
          if (!picture.model) throw new Error(picture.refused ?? "");
          return { chance: { at_least: LIKELY, model: picture.model as Chance["model"] } };
        },
        then: "range",
      },
    ],
  };
</script>

<script lang="ts">
  /** From which chance on, and below which. The model stays the one it was learned with. */
  let { piece, put, close }: PhraseProps<Chance> = $props();

  const shown = (share: number | undefined) =>
    share === undefined ? "" : String(Math.round(share * 1000) / 10);

  function bound(name: "at_least" | "below", text: string) {
    const rest = { ...piece };
    delete rest[name];
    const value = Number(text) / 100;
    const next = text.trim() && value >= 0 && value <= 1 ? { ...rest, [name]: value } : rest;
    if (next.at_least !== undefined || next.below !== undefined) put(next);
  }
</script>

<div class="flex flex-wrap items-center gap-2">
  {#each [["at_least", "at least"], ["below", "and below"]] as const as [name, text] (name)}
    <label class="flex items-center gap-2"
      >{text}
      <input
        class="w-20"
        type="number"
        min="0"
        max="100"
        step="any"
        value={shown(piece[name])}
        onchange={(event) => bound(name, event.currentTarget.value)}
        onkeydown={(event) => event.key === "Enter" && close()}
      /> %</label
    >
  {/each}
</div>
