<script lang="ts">
  import type { Snippet } from "svelte";

  /** Someone else has saved the same thing meanwhile: both versions, and the choice between them. */
  let {
    what,
    there,
    here,
    keep,
    adopt,
    busy = false,
  }: {
    /** "audience" */
    what: string;
    there: Snippet;
    here: Snippet;
    keep: () => void;
    adopt: () => void;
    busy?: boolean;
  } = $props();
</script>

<div
  role="alertdialog"
  aria-label="Changed meanwhile"
  class="my-4 border-l-4 border-(--alarm) pl-4"
  data-testid="conflict"
>
  <p class="font-semibold">
    Someone else, or you in another window, has saved this {what} since you opened it.
  </p>
  <div class="mt-2 grid gap-x-10 gap-y-2 md:grid-cols-2">
    <div class="min-w-0">
      <p class="soft small">saved</p>
      {@render there()}
      <button class="quiet mt-2" disabled={busy} onclick={adopt}
        >Take the saved one and drop my changes</button
      >
    </div>
    <div class="min-w-0">
      <p class="soft small">yours</p>
      {@render here()}
      <button class="quiet mt-2" disabled={busy} onclick={keep}>Save mine instead</button>
    </div>
  </div>
</div>
