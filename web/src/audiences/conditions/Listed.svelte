<script lang="ts" module>
  import { identifierKinds, kindName } from "../../lib/identifiers";
  import type { Condition, PhraseProps } from "./condition";

  export const condition: Condition = {
    keys: ["listed"],
    phrases: { listed: "List" },
    offers: [
      {
        about: "who",
        text: "who are on a list of identifiers …",
        ask: "Identifiers of which kind",
        options: () => identifierKinds().map((kind) => ({ value: kind, text: kindName(kind) })),
        begin: (by) => ({ listed: { by, values: [] } }),
        then: "listed",
      },
    ],
  };
</script>

<script lang="ts">
  import { plural } from "../../lib/format";
  import { untrack } from "svelte";

  /** The identifiers written down: pasted, one a line or by commas, or read from a file. */
  let { piece, put, close }: PhraseProps<{ by: string; values: string[] }> = $props();

  const MOST = 5000;
  let text = $state(untrack(() => piece.values.join("\n")));
  const values = $derived([
    ...new Set(
      text
        .split(/[\n,;\t]+/)
        .map((value) => value.trim().replace(/^"|"$/g, ""))
        .filter(Boolean),
    ),
  ]);

  function take() {
    if (values.length && values.length <= MOST) put({ ...piece, values });
    close();
  }

  async function read(file: File | undefined) {
    if (file) text = `${text.trim()}\n${await file.text()}`.trim();
  }
</script>

<select
  aria-label="Kind of identifier"
  value={piece.by}
  onchange={(event) => put({ ...piece, by: event.currentTarget.value })}
>
  {#each identifierKinds() as kind (kind)}<option value={kind}>{kindName(kind)}</option>{/each}
</select>
<label class="field mt-2"
  >One a line, or separated by commas
  <textarea rows="8" class="w-80 max-w-full font-mono text-[0.85rem]" bind:value={text}></textarea>
</label>
<label class="small mt-1 block"
  >or from a file
  <input
    type="file"
    accept=".txt,.csv,text/plain,text/csv"
    class="w-full border-0! bg-transparent! px-0!"
    onchange={(event) => read(event.currentTarget.files?.[0])}
  /></label
>
{#if values.length > MOST}<p role="alert" class="small text-(--alarm)">
    A list holds at most {plural(MOST, "identifier")}; these are {plural(values.length, "identifier")}.
  </p>{/if}
<button class="act mt-2" disabled={!values.length || values.length > MOST} onclick={take}
  >Use {plural(values.length, "identifier")}</button
>
