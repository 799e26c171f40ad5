<script lang="ts">
  import type { Rules } from "./exports";
  import PhraseSelect from "../ui/PhraseSelect.svelte";

  /** The form of the file. */
  let { file = $bindable() }: { file: Rules["file"] } = $props();

  type File = NonNullable<Rules["file"]>;
  type Phrase = { key: keyof File; label: string; options: [string, string][] };
  const FORMAT: Phrase = {
    key: "format",
    label: "Format",
    options: [
      ["csv", "CSV"],
      ["jsonl", "JSON Lines"],
      ["parquet", "Parquet"],
    ],
  };
  const OF_CSV: Phrase[] = [
    {
      key: "separator",
      label: "Separator",
      options: [
        ["comma", "with commas"],
        ["semicolon", "with semicolons"],
        ["tab", "with tabs"],
      ],
    },
    {
      key: "encoding",
      label: "Encoding",
      options: [
        ["utf-8", "in UTF-8"],
        ["utf-8-bom", "in UTF-8 with a byte order mark"],
        ["windows-1252", "in Windows-1252"],
      ],
    },
    {
      key: "neutralise",
      label: "Formulas",
      options: [
        ["true", "formulas escaped"],
        ["false", "formulas unchanged"],
      ],
    },
  ];
  const PACKING: Phrase = {
    key: "gzip",
    label: "Compression",
    options: [
      ["false", "uncompressed"],
      ["true", "compressed with gzip"],
    ],
  };
  const ADDRESSES: Phrase = {
    key: "digests",
    label: "Addresses",
    options: [
      ["false", "addresses in plain text"],
      ["true", "hashed addresses (SHA-256)"],
    ],
  };
  /** Where a line may be broken. */
  const BETWEEN = " ";
  const phrases = $derived([
    FORMAT,
    ...(file?.format === "csv" ? OF_CSV : []),
    ...(file?.format === "parquet" ? [] : [PACKING]),
    ADDRESSES,
  ]);

  function choose(key: keyof File, value: string) {
    file = { ...file, [key]: ["true", "false"].includes(value) ? value === "true" : value };
  }
</script>

{#each phrases as phrase, index (phrase.key)}<span class="whitespace-nowrap"
    ><PhraseSelect
      label={phrase.label}
      ink="what"
      value={file?.[phrase.key]}
      options={phrase.options}
      choose={(value) => choose(phrase.key, value)}
    />{index === phrases.length - 1 ? "." : ","}</span
  >{BETWEEN}{/each}
