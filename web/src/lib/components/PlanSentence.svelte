<script lang="ts">
  import { address } from "../address.svelte";
  import type { Schemas } from "../api/client";
  import { percent, plural } from "../format";
  import { CHANNELS, messagedBy, type Written } from "../handover";
  import { workspace } from "../workspace.svelte";

  /** A plan as numbered sentences; each underlined phrase is chosen in place. */
  let {
    plan = $bindable(),
    audiences,
    lists,
    holdouts,
    destinations,
  }: {
    plan: Written;
    audiences: Schemas["AudienceRow"][];
    lists: Schemas["ContactList"][];
    holdouts: Schemas["Holdout"][];
    destinations: Schemas["Destination"][];
  } = $props();

  const DAYS = 7;
  const GUARDS = [0.1, 0.25, 0.5, 1];
  const WEEKDAYS = ["Monday", "Tuesday", "Wednesday", "Thursday", "Friday", "Saturday", "Sunday"];
  const MONTH = Array.from({ length: 31 }, (_, index) => index + 1);
  const rules = $derived(plan.rules);
  const file = $derived(plan.rules.file ?? {});
  const chosen = $derived(audiences.find((row) => row.id === plan.audience_id));
  const versions = $derived(Array.from({ length: chosen?.version ?? 1 }, (_, index) => index + 1));
  const types = $derived((workspace.catalogue?.event_types ?? []).map((type) => type.name));
  const named = $derived(lists.filter((row) => (rules.lists ?? []).includes(row.id)).map((row) => row.name));

  function toggle<T>(all: T[], one: T, on: boolean): T[] {
    return on ? [...all, one] : all.filter((other) => other !== one);
  }

  function every(unit: string) {
    const at = rules.schedule?.at ?? "07:00";
    plan.rules.schedule = unit ? { every: unit, at, ...(unit === "day" ? {} : { on: 1 }) } : null;
  }

  function messaged(change: Partial<NonNullable<typeof rules.messaged>>) {
    const before = rules.messaged ?? { events: [], days: DAYS, runs: false };
    const after = { ...before, ...change };
    plan.rules.messaged = after.events.length || after.runs ? after : null;
  }
</script>

<ol class="sentence" data-testid="plan">
  <li>
    Hand over
    <select
      class="phrase ink-who"
      aria-label="Audience"
      value={String(plan.audience_id)}
      onchange={(event) => {
        plan.audience_id = Number(event.currentTarget.value);
        plan.version = null;
      }}
    >
      {#each audiences as row (row.id)}<option value={String(row.id)}>{row.name}</option>{/each}
    </select>,
    <select
      class="phrase ink-when"
      aria-label="Version"
      value={plan.version === null ? "" : String(plan.version)}
      onchange={(event) =>
        (plan.version = event.currentTarget.value ? Number(event.currentTarget.value) : null)}
    >
      <option value="">always its newest version</option>
      {#each versions as version (version)}<option value={String(version)}>in version {version}</option
        >{/each}
    </select>,
    <select class="phrase ink-what" aria-label="Mode" bind:value={plan.rules.mode}>
      <option value="whole">all of it each time</option>
      <option value="changes">only who entered and who left since the last run</option>
    </select>.
  </li>
  <li>
    They are to be reached
    <select
      class="phrase ink-what"
      aria-label="Channel"
      value={rules.channel ?? ""}
      onchange={(event) => (plan.rules.channel = event.currentTarget.value || null)}
    >
      <option value="">by no message at all</option>
      {#each CHANNELS as [key, name] (key)}<option value={key}>by {name}</option>{/each}
    </select>{rules.channel
      ? ", so whoever has no usable address, has withdrawn consent or shares an address is kept back."
      : ", so addresses and consent are not looked at."}
  </li>
  <!-- prettier-ignore -->
  <li>
    Keep back whoever was messaged by <details class="choice">
      <summary class="ink-what">{rules.messaged ? messagedBy(rules.messaged) : "nothing"}</summary>
      <div class="panel">
        <label
          ><input
            type="checkbox"
            checked={rules.messaged?.runs ?? false}
            onchange={(event) => messaged({ runs: event.currentTarget.checked })}
          /> a run of Estrel by this channel</label
        >
        {#each types as type (type)}
          <label
            ><input
              type="checkbox"
              checked={rules.messaged?.events.includes(type) ?? false}
              onchange={(event) =>
                messaged({ events: toggle(rules.messaged?.events ?? [], type, event.currentTarget.checked) })}
            />
            {type}</label
          >
        {/each}
      </div>
    </details>{#if rules.messaged}&#32;in the last <input
        class="phrase ink-when"
        type="number"
        min="1"
        max="3650"
        aria-label="Days since a message"
        value={rules.messaged.days}
        oninput={(event) => messaged({ days: Number(event.currentTarget.value) })}
      /> days{/if}, or is listed in <details class="choice">
      <summary class="ink-who">{named.length ? named.join(", ") : "no list"}</summary>
      <div class="panel">
        {#each lists as row (row.id)}
          <label
            ><input
              type="checkbox"
              checked={(rules.lists ?? []).includes(row.id)}
              onchange={(event) =>
                (plan.rules.lists = toggle(rules.lists ?? [], row.id, event.currentTarget.checked))}
            />
            {row.name} <span class="soft small">{plural(row.size, "value")}</span></label
          >
        {/each}
        <a class="small" href={address.to("/exports/keeping")}>Make a list…</a>
      </div>
    </details>.
  </li>
  <li>
    Hold out
    <select
      class="phrase ink-state"
      aria-label="Holdout"
      value={rules.holdout ? String(rules.holdout) : ""}
      onchange={(event) =>
        (plan.rules.holdout = event.currentTarget.value ? Number(event.currentTarget.value) : null)}
    >
      <option value="">nobody</option>
      {#each holdouts as row (row.id)}
        <option value={String(row.id)}
          >{row.name}, {row.share === null
            ? plural(row.number!, "person", "people")
            : percent(row.share)}</option
        >
      {/each}
    </select>
    to measure against{#if holdouts.length === 0}
      <a class="soft small ml-1" href={address.to("/exports/keeping")}>make a holdout…</a>{/if}.
  </li>
  <li>
    Put it
    <select
      class="phrase ink-who"
      aria-label="Destination"
      value={plan.destination_id === null ? "" : String(plan.destination_id)}
      onchange={(event) =>
        (plan.destination_id = event.currentTarget.value ? Number(event.currentTarget.value) : null)}
    >
      <option value="">here to download</option>
      {#each destinations as row (row.id)}<option value={String(row.id)}>into {row.name}</option>{/each}
    </select>
    as
    <select class="phrase ink-what" aria-label="Format" bind:value={file.format}>
      <option value="csv">CSV</option><option value="jsonl">JSON Lines</option><option value="parquet"
        >Parquet</option
      >
    </select>{#if file.format === "csv"}, with
      <select class="phrase ink-what" aria-label="Separator" bind:value={file.separator}>
        <option value="comma">commas</option><option value="semicolon">semicolons</option><option value="tab"
          >tabs</option
        >
      </select>
      in
      <select class="phrase ink-what" aria-label="Encoding" bind:value={file.encoding}>
        <option value="utf-8">UTF-8</option><option value="utf-8-bom">UTF-8 with a mark</option><option
          value="windows-1252">Windows-1252</option
        >
      </select>,
      <select
        class="phrase ink-what"
        aria-label="Formulas"
        value={String(file.neutralise)}
        onchange={(event) => (file.neutralise = event.currentTarget.value === "true")}
      >
        <option value="true">formulas made harmless</option><option value="false">formulas as they are</option
        >
      </select>{/if}{#if file.format !== "parquet"},
      <select
        class="phrase ink-what"
        aria-label="Packing"
        value={String(file.gzip)}
        onchange={(event) => (file.gzip = event.currentTarget.value === "true")}
      >
        <option value="false">not packed</option><option value="true">packed with gzip</option>
      </select>{/if}, addresses
    <span class="whitespace-nowrap"
      ><select
        class="phrase ink-what"
        aria-label="Addresses"
        value={String(file.digests)}
        onchange={(event) => (file.digests = event.currentTarget.value === "true")}
      >
        <option value="false">in plain</option><option value="true">as SHA-256</option>
      </select>.</span
    >
  </li>
  <li>
    Carry it out
    <select
      class="phrase ink-when"
      aria-label="Schedule"
      value={rules.schedule?.every ?? ""}
      onchange={(event) => every(event.currentTarget.value)}
    >
      <option value="">by hand only</option><option value="day">every day</option><option value="week"
        >every week</option
      ><option value="month">every month</option>
    </select>{#if rules.schedule}{#if rules.schedule.every === "week"},
        <select
          class="phrase ink-when"
          aria-label="Day of the week"
          value={String(rules.schedule.on)}
          onchange={(event) => (plan.rules.schedule!.on = Number(event.currentTarget.value))}
        >
          {#each WEEKDAYS as name, index (name)}<option value={String(index + 1)}>on {name}</option>{/each}
        </select>{:else if rules.schedule.every === "month"},
        <select
          class="phrase ink-when"
          aria-label="Day of the month"
          value={String(rules.schedule.on)}
          onchange={(event) => (plan.rules.schedule!.on = Number(event.currentTarget.value))}
        >
          {#each MONTH as on (on)}<option value={String(on)}>on day {on}</option>{/each}
        </select>{/if}, at
      <input
        class="phrase ink-when"
        type="time"
        required
        aria-label="Time of day"
        value={rules.schedule.at}
        onchange={(event) => (plan.rules.schedule!.at = event.currentTarget.value.slice(0, 5))}
      />{/if}.
  </li>
  <li>
    <select
      class="phrase ink-when"
      aria-label="Guard"
      value={rules.guard ? String(rules.guard) : ""}
      onchange={(event) =>
        (plan.rules.guard = event.currentTarget.value ? Number(event.currentTarget.value) : null)}
    >
      {#each GUARDS as guard (guard)}
        <option value={String(guard)}>Wait for a person’s word when {percent(guard)} more or fewer</option>
      {/each}
      <option value="">Never wait, however many more or fewer</option>
    </select>
    are handed over than last time.
  </li>
</ol>

<style>
  .sentence {
    counter-reset: line;
    font-family: "Literata", serif;
    font-size: 1.1rem;
    line-height: 2.1rem;
    max-width: 60rem;
  }
  .sentence > li {
    counter-increment: line;
    padding-left: 2.2rem;
    position: relative;
  }
  .sentence > li::before {
    content: counter(line);
    position: absolute;
    left: 0.9rem;
    color: var(--ink-soft);
    font-family: "Atkinson Hyperlegible Next", sans-serif;
    font-size: 0.8rem;
  }
  .phrase {
    appearance: none;
    text-decoration: none;
    field-sizing: content;
    max-width: 100%;
    min-height: 0;
    padding: 0 1px;
    border: 0;
    border-radius: 0;
    background-color: transparent;
    line-height: 1.7rem;
    cursor: pointer;
    border-bottom: 2px solid var(--ink-what);
  }
  .phrase option {
    background: var(--paper-raised);
    color: var(--ink);
  }
  .phrase.ink-who {
    border-color: var(--ink-who);
  }
  .phrase.ink-when {
    border-color: var(--ink-when);
  }
  .phrase.ink-state {
    border-color: var(--ink-state);
  }
  .choice {
    display: inline-block;
    position: relative;
  }
  .choice > summary {
    list-style: none;
    cursor: pointer;
  }
  .choice > .panel {
    position: absolute;
    left: 0;
    display: flex;
    flex-direction: column;
    gap: 4px;
    width: max-content;
    max-width: 80vw;
    max-height: 18rem;
    overflow-y: auto;
    font-family: "Atkinson Hyperlegible Next", sans-serif;
    font-size: 0.95rem;
    line-height: 1.5rem;
  }
</style>
