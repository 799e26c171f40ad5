<script lang="ts" module>
  import { CHANNELS } from "../../lib/channels";
  import type { Condition, PhraseProps } from "./condition";

  export const condition: Condition = {
    keys: ["reachable"],
    phrases: { channels: "Channel" },
    offers: [
      {
        about: "who",
        text: "who can be reached …",
        ask: "Channel",
        options: () => CHANNELS.map(([value, text]) => ({ value, text })),
        begin: (channel) => ({ reachable: { by: [channel as "email"] } }),
      },
    ],
  };
</script>

<script lang="ts">
  import Checks from "../editor/Checks.svelte";

  /** By which channels; one at least. */
  let { piece, put }: PhraseProps<{ by: string[] }> = $props();
</script>

<Checks options={CHANNELS} chosen={piece.by} change={(by) => put({ by })} />
