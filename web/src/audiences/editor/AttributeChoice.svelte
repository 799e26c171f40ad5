<script lang="ts">
  import { workspace } from "../../lib/workspace.svelte";
  import Choice from "./Choice.svelte";

  /** One of the attributes there are. */
  let { value, choose, close }: { value: string; choose: (name: string) => void; close: () => void } =
    $props();

  const options = $derived(
    (workspace.catalogue?.attributes ?? []).map(({ name, type }) => ({
      value: name,
      text: name,
      note: type,
    })),
  );
</script>

<Choice label="Attribute" {value} {options} {choose} {close} />
