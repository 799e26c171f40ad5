<script lang="ts">
  import { address } from "../lib/address.svelte";
  import type { Schemas } from "../lib/api/client";
  import { plural } from "../lib/format";
  import { messagedBy, type Rules } from "./exports";
  import { workspace } from "../lib/workspace.svelte";
  import PhraseChecks from "../audiences/PhraseChecks.svelte";

  /** Who is excluded: messaged too recently, or on a list. */
  let { rules = $bindable(), lists }: { rules: Rules; lists: Schemas["ContactList"][] } = $props();

  const DAYS = 7;
  /** Stands for runs among the event types, of which none is called so. */
  const RUNS = "";
  const events = $derived(rules.messaged?.events ?? []);
  const ways = $derived([
    { key: RUNS, name: "any Estrel export on this channel", on: rules.messaged?.runs ?? false },
    ...(workspace.catalogue?.event_types ?? []).map((type) => ({
      key: type.name,
      name: type.noun,
      on: events.includes(type.name),
    })),
  ]);
  const chosen = $derived(
    lists.map((row) => ({
      key: String(row.id),
      name: row.name,
      note: plural(row.size, "value"),
      on: (rules.lists ?? []).includes(row.id),
    })),
  );
  const names = $derived(chosen.filter((list) => list.on).map((list) => list.name));

  function toggle<T>(all: T[], one: T, on: boolean): T[] {
    return on ? [...all, one] : all.filter((other) => other !== one);
  }

  function messaged(change: Partial<NonNullable<Rules["messaged"]>>) {
    const after = { events, days: DAYS, runs: false, ...rules.messaged, ...change };
    rules.messaged = after.events.length || after.runs ? after : null;
  }
</script>

<!-- prettier-ignore -->
<span>{#if rules.messaged}Exclude people messaged by{/if} <PhraseChecks
    text={rules.messaged ? messagedBy(rules.messaged) : "No frequency cap"}
    ink="what"
    options={ways}
    choose={(key, on) => messaged(key === RUNS ? { runs: on } : { events: toggle(events, key, on) })}
  />{#if rules.messaged}&#32;in the last <input
      class="phrase ink-when"
      type="number"
      min="1"
      max="3650"
      aria-label="Days since a message"
      value={rules.messaged.days}
      oninput={(event) => messaged({ days: Number(event.currentTarget.value) })}
    /> days{/if}{rules.messaged && names.length ? " or on the list" : names.length ? ", exclude people on the list" : ","} <PhraseChecks
    text={names.join(" or ") || "no suppression list"}
    ink="who"
    options={chosen}
    choose={(key, on) => (rules.lists = toggle(rules.lists ?? [], Number(key), on))}
    >{#snippet more()}<a class="small" href={address.to("/exports/keeping")}>Create list…</a>{/snippet}</PhraseChecks
  >.</span>
