<script lang="ts" module>
  import Fuse from "fuse.js";

  /** One thing to choose: its value, what is shown, what is said of it beside, and what else finds it. */
  export type Option = { value: string; text: string; note?: string; find?: string };

  /** The options that fit what has been typed, the best first; also those with a slip of the finger. */
  export function matching(options: Option[], typed: string): Option[] {
    const wanted = typed.trim().toLowerCase();
    if (!wanted) return options;
    const starts = (text: string) => text.toLowerCase().startsWith(wanted);
    const starting = options.filter((option) => starts(option.text) || starts(option.value));
    const keys = ["text", "value", "find"];
    const near = new Fuse(options, { keys, threshold: 0.35, ignoreLocation: true }).search(wanted);
    return [...new Set([...starting, ...near.map((found) => found.item)])];
  }
</script>

<script lang="ts">
  import { onMount } from "svelte";

  /** Type to complete: arrow keys move, Enter or a click chooses and closes. What fits nothing can be taken as typed. */
  let {
    label,
    value = "",
    options,
    choose,
    close,
    free = false,
  }: {
    label: string;
    value?: string;
    options: Option[];
    choose: (value: string) => void;
    close: () => void;
    free?: boolean;
  } = $props();

  const MOST = 200;
  const id = $props.id();
  let typed = $state("");
  let at = $state(0);
  let list = $state<HTMLElement>();
  let field = $state<HTMLInputElement>();
  const found = $derived(matching(options, typed).slice(0, MOST));
  const shown = $derived(
    free && typed.trim() && !found.some((option) => option.text === typed.trim())
      ? [...found, { value: typed.trim(), text: typed.trim(), note: "as typed" }]
      : found,
  );

  onMount(() => {
    at = Math.max(
      0,
      options.findIndex((option) => option.value === value),
    );
    scroll();
    field?.focus();
  });

  function scroll() {
    requestAnimationFrame(() =>
      list?.querySelector("[aria-selected='true']")?.scrollIntoView({ block: "nearest" }),
    );
  }

  function take(option: Option | undefined) {
    if (!option) return;
    choose(option.value);
    close();
  }

  function pressed(event: KeyboardEvent) {
    const moves: Record<string, number> = { ArrowDown: 1, ArrowUp: -1, PageDown: 8, PageUp: -8 };
    if (moves[event.key]) {
      event.preventDefault();
      at = Math.min(shown.length - 1, Math.max(0, at + moves[event.key]!));
      scroll();
    } else if (event.key === "Enter") {
      event.preventDefault();
      take(shown[at]);
    }
  }
</script>

<input
  class="w-full"
  role="combobox"
  aria-label={label}
  aria-expanded="true"
  aria-controls="{id}-list"
  aria-activedescendant={shown[at] ? `${id}-${at}` : undefined}
  placeholder="Search"
  bind:this={field}
  bind:value={typed}
  oninput={() => (at = 0)}
  onkeydown={pressed}
/>
<ul
  class="mt-1 max-h-64 overflow-y-auto"
  role="listbox"
  id="{id}-list"
  aria-label={label}
  tabindex="-1"
  bind:this={list}
>
  {#each shown as option, index (index)}
    <!-- svelte-ignore a11y_click_events_have_key_events -->
    <li
      id="{id}-{index}"
      role="option"
      aria-selected={index === at}
      title={option.value === option.text ? undefined : option.value}
      class="flex cursor-pointer items-baseline gap-4 px-2 py-1 aria-selected:bg-(--paper-deep)"
      onclick={() => take(option)}
      onmousemove={() => (at = index)}
    >
      <span class={option.value === value ? "font-semibold" : ""}>{option.text}</span>
      {#if option.note}<span class="soft small ml-auto whitespace-nowrap">{option.note}</span>{/if}
    </li>
  {/each}
</ul>
{#if shown.length === 0}<p class="soft small px-2 py-1">No match.</p>{/if}
