<script lang="ts">
  import { apiAddress } from "../../lib/base";
  import type { Definition } from "../definition";
  import { rooted } from "./editing";
  import { said } from "../../lib/toasts.svelte";

  /** The definition as a document: to read, copy, keep as a file, write, or paste another one. */
  let {
    definition,
    change,
    name,
  }: { definition: Definition; change: (next: Definition) => void; name: string } = $props();

  let draft = $state<string | null>(null);
  let fault = $state("");
  const text = $derived(JSON.stringify(definition, null, 2));
  const file = $derived(`data:application/json;charset=utf-8,${encodeURIComponent(text)}`);

  function write(written: string) {
    draft = written;
    try {
      change(rooted(JSON.parse(written)));
      fault = "";
    } catch (error) {
      fault =
        error instanceof SyntaxError
          ? `Invalid JSON: ${error.message}`
          : "Not a valid definition: conditions must be objects, “all” and “any” lists of conditions.";
    }
  }

  async function copy() {
    await navigator.clipboard.writeText(text);
    said("Definition copied");
  }
</script>

<details class="mt-4 ml-8">
  <summary class="soft cursor-pointer">As JSON</summary>
  <textarea
    class="mt-2 w-full max-w-3xl font-mono text-[0.85rem]"
    rows="14"
    spellcheck="false"
    aria-label="The definition as JSON"
    value={draft ?? text}
    oninput={(event) => write(event.currentTarget.value)}
    onblur={() => {
      if (!fault) draft = null;
    }}></textarea>
  {#if fault}<p role="alert" class="small text-(--alarm)">{fault}</p>{/if}
  <p class="mt-1 flex gap-2">
    <button class="quiet" onclick={copy}>Copy</button>
    <a class="quiet" href={file} download="{name || 'audience'}.json">Save as a file</a>
    <a class="quiet" href={apiAddress(`/schemas/audience-definition.json`)} target="_blank">The schema</a>
  </p>
</details>
