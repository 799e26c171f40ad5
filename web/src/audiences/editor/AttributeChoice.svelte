<script lang="ts">
  import { remember } from "../../lib/recent";
  import Choice from "./Choice.svelte";
  import { attributeOptions } from "./choices";

  /** One of the attributes there are. */
  let { value, choose, close }: { value: string; choose: (name: string) => void; close: () => void } =
    $props();

  function take(name: string) {
    remember("attribute", name);
    choose(name);
  }
</script>

<Choice label="Attribute" {value} options={attributeOptions()} choose={take} {close} />
