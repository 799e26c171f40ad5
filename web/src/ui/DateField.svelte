<script lang="ts">
  import { dateOf } from "../lib/dates";
  import { addDays, day } from "../lib/format";
  import { workspace } from "../lib/workspace.svelte";
  import Panel from "./Panel.svelte";

  /**
   * A date: typed in any common form, moved by the arrow keys, or chosen from a calendar, which is loaded when it is
   * first opened.
   */
  let {
    label,
    value,
    least,
    most,
    optional = false,
    phrase = false,
    change,
  }: {
    label: string;
    /** ISO; nothing where there is none yet. */
    value: string | null | undefined;
    least?: string;
    most?: string;
    /** Whether it may be emptied; `change` is then called with "". */
    optional?: boolean;
    /** Whether it stands in a sentence. */
    phrase?: boolean;
    change: (iso: string) => void;
  } = $props();

  const uid = $props.id();
  const today = $derived(workspace.info?.today ?? new Date().toISOString().slice(0, 10));
  let text = $derived(value ? day(value) : "");
  let wrong = $state("");
  let open = $state(false);

  function take(iso: string) {
    open = false;
    wrong = "";
    if (iso === (value ?? "")) text = iso ? day(iso) : "";
    else change(iso);
  }

  function typed() {
    if (text.trim() === "" && (optional || !value)) return take("");
    const iso = dateOf(text, today);
    if (!iso) wrong = `“${text}” is not a date. Write it as ${day(today)}.`;
    else if (least && iso < least) wrong = `The earliest date here is ${day(least)}.`;
    else if (most && iso > most) wrong = `The latest date here is ${day(most)}.`;
    else take(iso);
  }

  function moved(days: number) {
    const next = addDays(dateOf(text, today) ?? value ?? today, days);
    if ((!least || next >= least) && (!most || next <= most)) text = day(next);
  }

  function key(event: KeyboardEvent) {
    if (event.key === "ArrowUp") moved(1);
    else if (event.key === "ArrowDown" && event.altKey) open = true;
    else if (event.key === "ArrowDown") moved(-1);
    else if (event.key === "Escape" && text !== (value ? day(value) : "")) {
      text = value ? day(value) : "";
      wrong = "";
      event.stopPropagation();
    } else if (event.key === "Enter") {
      typed();
      return;
    } else return;
    event.preventDefault();
  }
</script>

<span class="inline-flex items-baseline {phrase ? '' : 'date-field'}">
  <input
    class={phrase ? "phrase ink-when" : "w-32"}
    size="11"
    aria-label={label}
    aria-invalid={wrong ? "true" : undefined}
    aria-describedby={wrong ? `${uid}-wrong` : undefined}
    placeholder={phrase ? undefined : day(today)}
    autocomplete="off"
    spellcheck="false"
    bind:value={text}
    onkeydown={key}
    onchange={typed}
  /><Panel bind:open button="calendar-button" panel="calendar-panel w-72" label="Calendar: {label}" below>
    {#snippet trigger()}
      <svg width="14" height="14" viewBox="0 0 14 14" aria-hidden="true">
        <path d="M1.5 3.5h11v9h-11zM1.5 6h11M4.5 1.5v3M9.5 1.5v3" fill="none" stroke="currentColor" />
      </svg>
    {/snippet}
    {#await import("./Calendar.svelte") then { default: Calendar }}
      <Calendar value={value || most || today} {least} {most} {today} choose={take} />
    {/await}
  </Panel>
</span>{#if wrong}<span id="{uid}-wrong" role="alert" class="small ml-1 text-(--alarm)">{wrong}</span>{/if}

<style>
  .date-field {
    gap: 4px;
  }
  :global(.calendar-panel) {
    font-family: var(--typo-base--font-family);
    font-size: 0.95rem;
    line-height: 1.5;
  }
  :global(.calendar-button) {
    position: relative;
    padding: 5px 4px 5px 6px;
    margin: -3px -3px -3px -2px;
    color: var(--ink-soft);
    cursor: pointer;
  }
  :global(.calendar-button:hover) {
    color: var(--ink);
  }
</style>
