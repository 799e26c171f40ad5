<script lang="ts">
  import type { Schemas } from "../lib/api/client";

  /** Somebody else has saved the audience meanwhile: both sentences, and the choice between them. */
  let {
    mine,
    theirs,
    keep,
    adopt,
  }: { mine: string; theirs: Schemas["Audience"]; keep: () => void; adopt: () => void } = $props();
</script>

<div
  role="alertdialog"
  aria-label="Changed meanwhile"
  class="my-4 border-l-4 border-(--alarm) pl-4"
  data-testid="conflict"
>
  <p class="font-semibold">
    Somebody else, or you in another window, has changed this audience; it is now at version {theirs.version}
    now.
  </p>
  <div class="mt-2 grid gap-x-10 gap-y-2 md:grid-cols-2">
    <div>
      <p class="soft small">there: {theirs.name}</p>
      <p class="font-serif">{theirs.sentence}</p>
      <button class="quiet mt-2" onclick={adopt}>Take that one and drop my changes</button>
    </div>
    <div>
      <p class="soft small">here</p>
      <p class="font-serif">{mine}</p>
      <button class="quiet mt-2" onclick={keep}>Save mine as the next version</button>
    </div>
  </div>
</div>
