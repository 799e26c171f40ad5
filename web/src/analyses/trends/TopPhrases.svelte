<script lang="ts" module>
  /** How many values have lines of their own unless the address says so, and at most. */
  const TOP = 5;
  export const MOST_VALUES = 20;
  /** What these may have the most of besides the figure asked for. */
  export const DECIDING = ["people", "times"] as const;
  const WORDS = { people: "people", times: "events" };
</script>

<script lang="ts">
  import PhraseSelect from "../../ui/PhraseSelect.svelte";
  import InputPhrase from "../InputPhrase.svelte";

  /** How many values have lines of their own, and which: phrases of a sentence. */
  let {
    figure,
    top,
    most,
    ask,
  }: {
    /** What is counted, as far as that may decide besides. */
    figure: (typeof DECIDING)[number] | null;
    top: number | null;
    most: (typeof DECIDING)[number] | null;
    ask: (changes: Record<string, string | null>) => void;
  } = $props();

  const options = $derived<[string, string][]>([
    ["", figure ? WORDS[figure] : "this measure"],
    ...DECIDING.filter((name) => name !== figure).map((name): [string, string] => [name, WORDS[name]]),
  ]);
</script>

, top <InputPhrase
  label="How many values"
  value={top ?? TOP}
  most={MOST_VALUES}
  change={(count) => ask({ top: count === String(TOP) ? null : count })}
/> by <PhraseSelect
  label="Which values"
  ink="what"
  value={most === figure ? "" : (most ?? "")}
  {options}
  choose={(most) => ask({ most: most || null })}
/>
