<script lang="ts" generics="P extends Record<string, unknown>">
  import type { Component } from "svelte";
  import Waiting from "../ui/Waiting.svelte";

  /** A place whose script is loaded when somebody goes there. */
  let { load, given }: { load: () => Promise<{ default: Component<P> }>; given: P } = $props();

  let attempt = $state(0);
  const page = $derived.by(() => {
    void attempt;
    return load();
  });
</script>

{#await page}
  <div class="late"><Waiting /></div>
{:then { default: Page }}
  <Page {...given} />
{:catch}
  <Waiting
    problem={{
      type: "about:blank",
      title: "Not loaded",
      status: 0,
      detail: "This page could not be loaded. Reload it. If that does not help, the server may be down.",
      errors: [],
    }}
    retry={() => attempt++}
  />
{/await}
