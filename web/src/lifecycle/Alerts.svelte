<script lang="ts">
  import { address } from "../lib/address.svelte";
  import { answer, api, problemOf, type Problem, type Schemas } from "../lib/api/client";
  import Downloads from "../ui/Downloads.svelte";
  import Waiting from "../ui/Waiting.svelte";
  import { day, moment } from "../lib/format";
  import { Form } from "../lib/form.svelte";
  import { Live } from "../lib/live.svelte";
  import { said } from "../lib/toasts.svelte";
  import { workspace } from "../lib/workspace.svelte";
  import { session } from "../lib/session.svelte";
  import Reserved from "../ui/Reserved.svelte";

  /** The alerts there have been, and the rules that give rise to them. */
  const NAMES: Record<string, string> = {
    gain_loss_below: "the gain/loss ratio stays below a limit",
    dormant_grew: "the number of dormant people rises",
    reactivation_above: "too many churned people are reactivated",
    revised: "a past week’s figure is revised",
  };
  const SETTINGS: Record<string, [string, string]> = {
    ratio: ["below", ""],
    weeks: ["weeks", ""],
    share: ["by more than", "%"],
    days: ["within", "days"],
    horizon: ["within", "days"],
  };
  const alerts = new Live((signal) => {
    return answer(api.GET("/alerts", { signal }));
  });
  const form = new Form("alert", { kind: "gain_loss_below", values: {} as Record<string, number> });
  const kind = $derived(form.fields.kind);
  const values = $derived(form.fields.values);
  let problem = $state<Problem | null>(null);
  let saving = $state(false);
  const wanted = $derived(alerts.data?.kinds.find((row) => row.kind === kind));

  function shown(setting: { name: string; default: number }): number {
    return values[setting.name] ?? (setting.name === "share" ? setting.default * 100 : setting.default);
  }

  async function add(event: SubmitEvent) {
    event.preventDefault();
    saving = true;
    problem = null;
    const settings = Object.fromEntries(
      wanted!.settings.map((row) => [row.name, row.name === "share" ? shown(row) / 100 : shown(row)]),
    );
    try {
      const made = await answer(
        api.POST("/alert-rules", { body: { kind, settings, rule_set: workspace.ruleSet?.id ?? null } }),
      );
      form.end({ kind, values: {} });
      said(`Alert rule added: ${made.said}`);
      await alerts.reload();
      await workspace.countAlerts();
    } catch (error) {
      problem = problemOf(error);
    }
    saving = false;
  }

  async function attempt(work: () => Promise<void>) {
    problem = null;
    try {
      await work();
    } catch (error) {
      problem = problemOf(error);
    }
  }

  async function stop(row: Schemas["AlertRule"]) {
    await answer(api.DELETE("/alert-rules/{id}", { params: { path: { id: row.id } } }));
    await alerts.reload();
    said("Alert rule deleted", async () => {
      await answer(
        api.POST("/alert-rules", {
          body: { kind: row.kind, settings: row.settings, rule_set: row.rule_set },
        }),
      );
      await alerts.reload();
    });
  }

  async function read() {
    await answer(api.POST("/alerts/read"));
    await alerts.reload();
    await workspace.countAlerts();
  }
</script>

{#if alerts.data}
  {@const data = alerts.data}
  <div class="mt-3 flex flex-wrap items-baseline gap-x-4">
    <h2>Alerts</h2>
    {#if data.unread}<button class="quiet" onclick={() => attempt(read)}>Mark all as read</button>{/if}
    {#if data.alerts.length}<Downloads
        name="alerts"
        rows={data.alerts.map((row) => ({
          about: row.about,
          text: row.text,
          sent_at: row.created_at,
          read: row.read,
        }))}
      />{/if}
  </div>
  {#if data.alerts.length}
    <ul class="mt-2 max-w-3xl" data-testid="alerts">
      {#each data.alerts as row (row.id)}
        <li class="border-b border-(--rule) py-2">
          <span class={row.read ? "" : "font-semibold"}>{row.text}</span>
          {#if row.run}<a href={address.to(`/exports/runs/${row.run}`)}>View run</a>{/if}
          <span class="soft small ml-2"
            >as of <a href={address.to("/", { as_of: row.about })}>{day(row.about)}</a>, sent {moment(
              row.created_at,
              workspace.info!.time_zone,
            )}</span
          >
        </li>
      {/each}
    </ul>
  {:else}
    <p class="soft mt-2">
      {data.alert_rules.length ? "No alerts so far." : "No alert rules yet."}
    </p>
  {/if}

  <h2 class="mt-7">Alert rules</h2>
  <p class="soft small">
    Checked after each data refresh, for the last complete day. Each rule sends at most one alert per day.
  </p>
  <ul class="mt-1 max-w-3xl">
    {#each data.alert_rules as row (row.id)}
      <li class="flex items-baseline gap-4 border-b border-(--rule) py-1.5">
        <span>{row.said}{row.rule_set_name ? ` (${row.rule_set_name})` : ""}</span>
        {#if session.may("analyst")}
          <button
            class="quiet ml-auto min-h-0! py-0.5!"
            onclick={() => attempt(() => stop(row))}
            aria-label="Delete the alert rule: {row.said}">Delete</button
          >
        {/if}
      </li>
    {/each}
  </ul>
  <Reserved role="analyst" what="add and delete alert rules"
    ><form class="mt-4 flex flex-wrap items-end gap-x-4 gap-y-2" onsubmit={add}>
      <label class="field">
        Alert me when
        <select bind:value={form.fields.kind} onchange={() => (form.fields.values = {})}>
          {#each data.kinds as row (row.kind)}<option value={row.kind}>{NAMES[row.kind] ?? row.kind}</option
            >{/each}
        </select>
      </label>
      {#each wanted?.settings ?? [] as setting (setting.name)}
        {@const factor = setting.name === "share" ? 100 : 1}
        <label class="field">
          {SETTINGS[setting.name]?.[0] ?? setting.name}
          <span class="flex items-center gap-1">
            <input
              type="number"
              class="w-24 text-right"
              required
              min={setting.least * factor}
              max={setting.most * factor}
              step={setting.whole ? 1 : "any"}
              value={shown(setting)}
              oninput={(event) => (form.fields.values[setting.name] = event.currentTarget.valueAsNumber)}
            />{SETTINGS[setting.name]?.[1]}
          </span>
        </label>
      {/each}
      <button class="act" type="submit" disabled={saving}>Add alert rule</button>
    </form></Reserved
  >
  {#if problem}<p role="alert" class="mt-2 border-l-4 border-(--alarm) pl-3">{problem.detail}</p>{/if}
{/if}
{#if alerts.problem || !alerts.data}<Waiting problem={alerts.problem} retry={() => alerts.reload()} />{/if}
