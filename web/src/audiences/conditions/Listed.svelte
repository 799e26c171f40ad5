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
        ask: "Identifier type",
        options: () => identifierKinds().map((kind) => ({ value: kind, text: kindName(kind) })),
        begin: (by) => ({ listed: { by, values: [] } }),
        then: "listed",
      },
    ],
  };
</script>

<script lang="ts">
  import { answer, api, problemOf } from "../../lib/api/client";
  import { number, plural } from "../../lib/format";
  import { session } from "../../lib/session.svelte";
  import { said } from "../../lib/toasts.svelte";
  import { untrack } from "svelte";

  /**
   * The identifiers written down: pasted, one a line or by commas, or read from a file. Kept under a name they are an
   * audience of their own, with its owner and versions, and the condition asks who is in that.
   */
  let { piece, put, change, close }: PhraseProps<{ by: string; values: string[] }> = $props();

  const MOST = 5000;
  let name = $state("");
  let keeping = $state(false);
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

  async function keep() {
    if (keeping) return;
    keeping = true;
    try {
      const definition = { all: [{ listed: { ...piece, values } }] };
      const kept = await answer(api.POST("/audiences", { body: { name: name.trim(), definition } }));
      said(`Saved as audience “${kept.name}”`);
      change({ audience: { id: kept.id } });
      close();
    } catch (error) {
      said(problemOf(error).detail);
    } finally {
      keeping = false;
    }
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
  >One per line, or comma-separated
  <textarea rows="5" class="w-80 max-w-full font-mono text-[0.85rem]" bind:value={text}></textarea>
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
    A list can hold {plural(MOST, "identifier")}; you entered {number(values.length)}.
  </p>{/if}
<button class="act mt-2" disabled={!values.length || values.length > MOST} onclick={take}
  >Use {plural(values.length, "identifier")}</button
>
{#if session.may("analyst")}
  <form
    class="small mt-3 flex items-center gap-2 border-t border-(--rule) pt-3"
    onsubmit={(event) => {
      event.preventDefault();
      void keep();
    }}
  >
    <input
      class="min-w-0 flex-1"
      aria-label="Name of the list"
      placeholder="or save as an audience"
      bind:value={name}
    />
    <button class="quiet" disabled={!name.trim() || !values.length || values.length > MOST || keeping}
      >Save</button
    >
  </form>
{/if}
