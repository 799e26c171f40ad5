<script lang="ts" module>
  import { remember } from "../../lib/recent";
  import { eventOptions } from "../editor/choices";
  import type { Condition, PhraseProps } from "./condition";

  export const condition: Condition = {
    keys: ["rhythm"],
    phrases: { rhythm: "How regularly" },
    offers: [
      {
        about: "what",
        text: "who do something regularly…",
        ask: "Event type",
        options: eventOptions,
        begin: (event) => {
          remember("event", event);
          return { rhythm: { event, each: "week", last: 4 } };
        },
        then: "rhythm",
      },
    ],
    selections: () => ["rhythm"],
  };
</script>

<script lang="ts">
  import type { Rhythm } from "../definition";
  import Whole from "../editor/Whole.svelte";

  /** How often in each of the last weeks or months. */
  let { piece: rhythm, put: change, close }: PhraseProps<Rhythm> = $props();

  const needed = $derived(rhythm.in ?? rhythm.last);

  function set(changes: Partial<Rhythm>) {
    const next = { ...rhythm, ...changes };
    change({
      ...next,
      in: Math.min(changes.last && needed === rhythm.last ? changes.last : (next.in ?? next.last), next.last),
    });
  }
</script>

<div class="flex flex-col gap-2">
  <label class="flex items-center gap-2">
    at least <Whole label="Times" value={rhythm.times ?? 1} change={(times) => set({ times })} {close} /> times
  </label>
  <label class="flex items-center gap-2">
    in <Whole
      label="In how many"
      max={rhythm.last}
      value={needed}
      change={(value) => set({ in: value })}
      {close}
    />
    of the last <Whole
      label="Of how many"
      max={520}
      value={rhythm.last}
      change={(last) => set({ last })}
      {close}
    />
    <select
      aria-label="Weeks or months"
      value={rhythm.each}
      onchange={(event) => set({ each: event.currentTarget.value as "week" })}
    >
      <option value="week">weeks</option>
      <option value="month">months</option>
    </select>
  </label>
  <p class="soft small">Weeks start on Monday. Only complete weeks count.</p>
</div>
