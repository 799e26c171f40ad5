<script lang="ts">
  import { session } from "../lib/session.svelte";
  import { untrack } from "svelte";
  import { answer, api, problemOf, type Problem } from "../lib/api/client";
  import Waiting from "../ui/Waiting.svelte";
  import { Form } from "../lib/form.svelte";
  import { day, number, signed } from "../lib/format";
  import { workspace } from "../lib/workspace.svelte";
  import ZoneOfBrowser from "./ZoneOfBrowser.svelte";

  const ZONES = Intl.supportedValuesOf("timeZone");
  const NAMES: Record<string, string> = {
    time_zone: "reporting time zone",
    visit_gap_minutes: "Visit timeout",
    future_tolerance_minutes: "Allowed clock skew",
    kept_months: "Event retention (months)",
  };
  const WORDS = "remove old events";

  const inForce = () => ({
    time_zone: workspace.info!.time_zone,
    visit_gap_minutes: workspace.info!.visit_gap_minutes,
    future_tolerance_minutes: workspace.info!.future_tolerance_minutes,
    kept_months: workspace.info!.kept_months as number | null,
  });
  const form = untrack(() => new Form("settings", inForce()));
  const draft = $derived(form.fields);
  let said = $state("");
  let problem = $state<Problem | null>(null);
  let working = $state(false);
  let outcome = $state.raw<{
    changed: { name: string; before?: unknown; after?: unknown }[];
    effects: { what: string; before: number; after: number }[];
  } | null>(null);

  /** The first day of which events would be kept, where there are older ones. */
  const removedBefore = $derived.by(() => {
    if (!draft.kept_months || draft.kept_months === workspace.info!.kept_months) return null;
    const [year, month] = workspace.info!.today.split("-").map(Number) as [number, number];
    const first = new Date(Date.UTC(year, month - 1 - draft.kept_months, 1)).toISOString().slice(0, 10);
    const oldest = workspace.info!.data?.oldest_day;
    return oldest && oldest < first ? first : null;
  });

  async function save(event: SubmitEvent) {
    event.preventDefault();
    if (working) return;
    working = true;
    problem = null;
    outcome = null;
    try {
      const confirm = removedBefore ? { confirm: said.trim() } : {};
      outcome = await answer(
        api.PUT("/workspace", { body: { ...draft, kept_months: draft.kept_months || null, ...confirm } }),
      );
      said = "";
      await workspace.refresh();
      form.end(inForce());
    } catch (error) {
      problem = problemOf(error);
    } finally {
      working = false;
    }
  }
</script>

{#if !session.may("administrator")}<p class="soft mt-4">Only administrators can change settings.</p>{/if}
{#if form.restored}<p class="soft small mt-4">This is your draft; it has not been saved yet.</p>{/if}
<form class="mt-4" onsubmit={save}>
  <fieldset class="flex max-w-2xl flex-col gap-5" disabled={!session.may("administrator")}>
    <label class="field">
      <span class="font-semibold">Reporting time zone</span>
      <span class="soft small">Calendar days follow this time zone, including daylight saving.</span>
      <input list="zones" class="w-72" bind:value={form.fields.time_zone} required />
      <datalist id="zones"
        >{#each ZONES as zone (zone)}<option value={zone}></option>{/each}</datalist
      >
    </label>
    <ZoneOfBrowser chosen={draft.time_zone} choose={(zone) => (form.fields.time_zone = zone)} />
    <label class="field">
      <span class="font-semibold">Visit timeout (minutes)</span>
      <span class="soft small">A longer pause between two events starts a new visit.</span>
      <input
        type="number"
        min="1"
        max="1440"
        class="w-28 text-right"
        bind:value={form.fields.visit_gap_minutes}
        required
      />
    </label>
    <label class="field">
      <span class="font-semibold">Allowed clock skew (minutes)</span>
      <span class="soft small">Events dated further in the future are rejected.</span>
      <input
        type="number"
        min="0"
        max="525600"
        class="w-28 text-right"
        bind:value={form.fields.future_tolerance_minutes}
        required
      />
    </label>
    <label class="field">
      <span class="font-semibold">Keep events for (months)</span>
      <span class="soft small"
        >Older events are deleted, and rejected if they arrive late. Leave empty to keep all events.</span
      >
      <input
        type="number"
        min="1"
        max="1200"
        class="w-28 text-right"
        placeholder="all"
        bind:value={form.fields.kept_months}
      />
    </label>
    {#if removedBefore}
      <label class="field">
        <span role="alert"
          >This permanently deletes all events before {day(removedBefore)}: from all figures immediately, from
          storage within a day. Existing backups still contain them.</span
        >
        <span class="soft small">Type “{WORDS}” to confirm</span>
        <input class="w-72" bind:value={said} autocomplete="off" required pattern={WORDS} />
      </label>
    {/if}
    <div class="flex items-center gap-4">
      <button class="act" disabled={working}>{working ? "Recomputing…" : "Save settings"}</button>
      {#if working}<span role="status" class="soft">Recomputing days, states and visits.</span>{/if}
    </div>
  </fieldset>
</form>
{#if problem}<Waiting {problem} />{/if}
{#if outcome}
  <div role="status" class="mt-6" data-testid="settings-outcome">
    {#if outcome.changed.length === 0}
      <p class="says">No changes.</p>
    {:else}
      <p class="says">
        {#each outcome.changed as change, index (change.name)}{index ? "; " : ""}{NAMES[change.name]}: changed
          from
          {change.before ?? "all"} to {change.after ?? "all"}{/each}.
      </p>
      {#if outcome.effects.length}
        <table class="figures mt-3 max-w-xl">
          <thead>
            <tr
              ><th>Latest day with data</th><th class="number">Before</th><th class="number">Now</th><th
                class="number">Change</th
              ></tr
            >
          </thead>
          <tbody>
            {#each outcome.effects as effect (effect.what)}
              <tr>
                <td>{effect.what}</td>
                <td class="number">{number(effect.before)}</td>
                <td class="number">{number(effect.after)}</td>
                <td class="number">{signed(effect.after - effect.before)}</td>
              </tr>
            {/each}
          </tbody>
        </table>
      {/if}
    {/if}
  </div>
{/if}
