<script lang="ts">
  import { untrack } from "svelte";
  import { answer, api, problemOf, type Problem, type Schemas } from "../lib/api/client";
  import { CHANNELS } from "../lib/channels";
  import { Form } from "../lib/form.svelte";
  import { Resource } from "../lib/resource.svelte";
  import { said } from "../lib/toasts.svelte";
  import { workspace } from "../lib/workspace.svelte";
  import RuleSetEffect from "./RuleSetEffect.svelte";
  import Signs from "./Signs.svelte";
  import StateMark from "./StateMark.svelte";

  /** Writes a rule set; beside it stands what it would change, before it is kept. */
  let {
    ruleSet,
    start,
    suggested = false,
    done,
  }: {
    /** The one changed; null for a new one. */
    ruleSet: Schemas["RuleSet"] | null;
    start: Schemas["LifecycleRules"] & { name: string };
    /** Whether `start` holds days that someone has just chosen elsewhere: then a draft kept from before is left out. */
    suggested?: boolean;
    done: () => void;
  } = $props();

  type Draft = {
    name: string;
    activity: Schemas["ActivitySign"][];
    new_for: number;
    active_within: number;
    churned_after: number;
    population: number | null;
    channel: "email" | "sms" | "push" | null;
  };
  const begun: Draft = untrack(() => ({
    name: start.name,
    activity: structuredClone($state.snapshot(start.activity)) as Schemas["ActivitySign"][],
    new_for: start.new_for,
    active_within: start.active_within,
    churned_after: start.churned_after,
    population: start.population ?? null,
    channel: start.channel ?? null,
  }));
  const form = untrack(
    () => new Form(`rules-${ruleSet ? (ruleSet.id ?? "first") : "new"}`, begun, { anew: suggested }),
  );
  const draft = $derived(form.fields);

  function leave() {
    form.end();
    done();
  }
  let problem = $state<Problem | null>(null);
  let saving = $state(false);
  const audiences = new Resource((signal) =>
    answer(api.GET("/audiences", { params: { query: { as_of: workspace.asOf } }, signal })),
  );
  const DAYS = [
    ["new_for", "new", "for", "days after the first activity"],
    ["active_within", "dormant", "from", "inactive days"],
    ["churned_after", "churned", "from", "inactive days"],
  ] as const;
  const whole = $derived(DAYS.every(([key]) => Number.isInteger(draft[key]) && draft[key] >= 1));
  const fault = $derived(
    !whole
      ? "Enter whole numbers of days, 1 or more."
      : draft.active_within >= draft.churned_after
        ? "Churned must start later than dormant."
        : draft.activity.length === 0
          ? "Choose at least one event type that counts as activity."
          : null,
  );

  async function save(event: SubmitEvent) {
    event.preventDefault();
    if (saving || fault) return;
    saving = true;
    problem = null;
    const body = $state.snapshot(draft) as Draft;
    try {
      if (ruleSet?.id) {
        const params = { path: { id: ruleSet.id } };
        await answer(
          api.PUT("/rule-sets/{id}", {
            params,
            body: { ...body, updated_at: ruleSet.updated_at ?? undefined },
          }),
        );
      } else if (ruleSet) await answer(api.PUT("/rule-set", { body }));
      else await answer(api.POST("/rule-sets", { body }));
      await workspace.readRuleSets();
      said(ruleSet ? "Rule set saved. Earlier versions are kept." : "The rule set has been saved");
      leave();
    } catch (error) {
      problem = problemOf(error);
    }
    saving = false;
  }
</script>

<div class="mt-4 grid grid-cols-[minmax(0,1fr)] gap-x-12 gap-y-6 lg:grid-cols-[27rem_1fr]">
  <form onsubmit={save} class="flex flex-col gap-3" aria-label="Rules">
    {#if form.restored}<p class="soft small">This is your draft; it has not been saved yet.</p>{/if}
    <label class="field"
      >Name <input
        bind:value={form.fields.name}
        required
        maxlength="255"
        disabled={ruleSet !== null && ruleSet.id === null}
      /></label
    >
    {#each DAYS as [key, state, before, after] (key)}
      <label class="flex flex-wrap items-center gap-2">
        <span class="w-24"><StateMark {state} /></span>
        {before}
        <input
          type="number"
          class="w-20 text-right"
          min="1"
          max="3650"
          step="1"
          bind:value={form.fields[key]}
          required
        />
        <span class="small">{after}</span>
      </label>
    {/each}
    {#if fault}<p role="alert" class="border-l-4 border-(--alarm) pl-3">{fault}</p>{/if}
    <fieldset>
      <legend class="small mb-1 font-semibold">What counts as activity</legend>
      <Signs signs={draft.activity} change={(activity) => (form.fields.activity = activity)} />
    </fieldset>
    <label class="field">
      Applies to
      <select
        value={draft.population === null ? "" : String(draft.population)}
        onchange={(event) =>
          (form.fields.population = event.currentTarget.value ? Number(event.currentTarget.value) : null)}
      >
        <option value="">all people</option>
        {#each audiences.data?.audiences ?? [] as row (row.id)}<option value={String(row.id)}
            >{row.name}</option
          >{/each}
      </select>
    </label>
    <label class="field">
      Reachable by
      <select
        value={draft.channel ?? ""}
        onchange={(event) => (form.fields.channel = (event.currentTarget.value || null) as Draft["channel"])}
      >
        <option value="">no restriction</option>
        {#each CHANNELS as [channel, name] (channel)}<option value={channel}>{name}</option>{/each}
      </select>
    </label>
    {#if problem}
      <div role="alert" class="border-l-4 border-(--alarm) pl-3">
        {#each problem.errors as row, index (index)}<p class="first-letter:uppercase">{row.message}.</p>
        {:else}<p>{problem.detail}</p>{/each}
      </div>
    {/if}
    <div class="flex gap-2">
      <button class="act" type="submit" disabled={saving || fault !== null}>Save rule set</button>
      <button class="quiet" type="button" onclick={leave}>Cancel</button>
    </div>
    <p class="soft small">States are recomputed for all past dates, so historical figures will change.</p>
  </form>
  <div>
    <h2>Effect of this change</h2>
    <p class="soft small">
      Compared with “{workspace.ruleSet?.name ?? ""}”; all people known on the as-of date.
    </p>
    {#if fault}<p class="soft mt-3">Nothing to compare yet.</p>
    {:else}<div class="mt-1"><RuleSetEffect rules={draft} /></div>{/if}
  </div>
</div>
