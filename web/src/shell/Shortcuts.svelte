<script lang="ts">
  import { address } from "../lib/address.svelte";
  import { focusSentence } from "../lib/sentence";
  import { shortcuts } from "./shortcuts.svelte";

  let waiting = false;

  const PLACES: Record<string, string> = {
    l: "/",
    p: "/people",
    a: "/audiences",
    s: "/analyses",
    e: "/exports",
    d: "/data",
  };

  /** Where letters are written or choose something: fields, and whatever has opened over the page. */
  const TAKES_LETTERS =
    "input, textarea, select, [contenteditable], [role='dialog'], [role='alertdialog'], [role='listbox'], [role='menu']";

  function takesLetters(target: EventTarget | null): boolean {
    return target instanceof Element && target.closest(TAKES_LETTERS) !== null;
  }

  function pressed(event: KeyboardEvent) {
    if (!shortcuts.on || takesLetters(event.target) || event.ctrlKey || event.metaKey || event.altKey) {
      waiting = false;
      return;
    }
    const going = waiting;
    waiting = false;
    if (going && PLACES[event.key]) address.go(address.to(PLACES[event.key]!));
    else if (event.key === "g") waiting = true;
    else if (event.key === "?") shortcuts.open = true;
    else if (event.key === "q") focusSentence();
    else if (event.key === "n") address.go(address.to("/audiences/new"));
    else if (event.key === "/") {
      event.preventDefault();
      const search = document.querySelector<HTMLElement>("[data-search]");
      if (search) search.focus();
      else address.go(address.to("/people", { focus: "search" }));
    }
  }
</script>

<svelte:window onkeydown={pressed} />

<!-- The list is loaded when somebody wants it. -->
{#if shortcuts.wanted}
  {#await import("./ShortcutList.svelte") then { default: ShortcutList }}<ShortcutList />{/await}
{/if}
