<script lang="ts">
  import { put } from "./codec";

  /** Where the bars or places of a picture begin, to be written by hand; nothing stands for the usual ones. */
  let {
    label,
    value,
    parse,
  }: {
    label: string;
    value: number[];
    /** Null for what cannot be read. */
    parse: (text: string) => number[] | null;
  } = $props();

  function change(text: string) {
    const edges = parse(text);
    put({ edges: edges ? edges.join(",") : text || null });
  }
</script>

<label class="small mt-3 block">
  {label}
  <input
    class="mt-1 block w-full"
    value={value.join(", ")}
    onchange={(event) => change(event.currentTarget.value)}
  />
</label>
