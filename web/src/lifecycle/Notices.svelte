<script lang="ts">
  import { address } from "../lib/address.svelte";
  import { answer, api, problemOf, type Problem, type Schemas } from "../lib/api/client";
  import Downloads from "../ui/Downloads.svelte";
  import Waiting from "../ui/Waiting.svelte";
  import { day, moment } from "../lib/format";
  import { Live } from "../lib/live.svelte";
  import { said } from "../lib/toasts.svelte";
  import { workspace } from "../lib/workspace.svelte";

  /** What is watched, and what there is to tell. */
  const NAMES: Record<string, string> = {
    replacement_below: "The replacement ratio stays below a limit",
    dormant_grew: "Dormant grows",
    comeback_above: "Too many of the churned come back",
    restated: "A past week's count moves",
  };
  const SETTINGS: Record<string, [string, string]> = {
    ratio: ["below", ""],
    weeks: ["weeks", ""],
    share: ["by more than", "%"],
    days: ["within", "days"],
    horizon: ["within", "days"],
  };
  const notices = new Live((signal) => {
    return answer(api.GET("/notices", { signal }));
  });
  let kind = $state("replacement_below");
  let values = $state<Record<string, number>>({});
  let problem = $state<Problem | null>(null);
  let saving = $state(false);
  const wanted = $derived(notices.data?.kinds.find((row) => row.kind === kind));

  function shown(setting: { name: string; default: number }): number {
    return values[setting.name] ?? (setting.name === "share" ? setting.default * 100 : setting.default);
  }

  async function watch(event: SubmitEvent) {
    event.preventDefault();
    saving = true;
    problem = null;
    const settings = Object.fromEntries(
      wanted!.settings.map((row) => [row.name, row.name === "share" ? shown(row) / 100 : shown(row)]),
    );
    try {
      const made = await answer(
        api.POST("/watches", { body: { kind, settings, policy: workspace.policy?.id ?? null } }),
      );
      said(`Watched: ${made.said}`);
      await notices.reload();
      await workspace.countNotices();
    } catch (error) {
      problem = problemOf(error);
    }
    saving = false;
  }

  async function stop(row: Schemas["Watch"]) {
    await answer(api.DELETE("/watches/{id}", { params: { path: { id: row.id } } }));
    await notices.reload();
    said("It is watched no longer", async () => {
      await answer(
        api.POST("/watches", { body: { kind: row.kind, settings: row.settings, policy: row.policy } }),
      );
      await notices.reload();
    });
  }

  async function read() {
    await answer(api.POST("/notices/read"));
    await notices.reload();
    await workspace.countNotices();
  }
</script>

{#if notices.data}
  {@const data = notices.data}
  <div class="mt-3 flex flex-wrap items-baseline gap-x-4">
    <h2>Notices</h2>
    {#if data.unread}<button class="quiet" onclick={read}>Mark all as read</button>{/if}
    {#if data.notices.length}<Downloads
        name="notices"
        rows={data.notices.map((row) => ({
          about: row.about,
          text: row.text,
          told_at: row.created_at,
          read: row.read,
        }))}
      />{/if}
  </div>
  {#if data.notices.length}
    <ul class="mt-2 max-w-3xl" data-testid="notices">
      {#each data.notices as row (row.id)}
        <li class="border-b border-(--rule) py-2">
          <span class={row.read ? "" : "font-semibold"}>{row.text}</span>
          {#if row.run}<a href={address.to(`/exports/runs/${row.run}`)}>see the run</a>{/if}
          <span class="soft small ml-2"
            >as of <a href={address.to("/", { as_of: row.about })}>{day(row.about)}</a>, told {moment(
              row.created_at,
              workspace.info!.time_zone,
            )}</span
          >
        </li>
      {/each}
    </ul>
  {:else}
    <p class="soft mt-2">
      Nothing to tell: {data.watches.length ? "what is watched has not happened." : "nothing is watched yet."}
    </p>
  {/if}

  <h2 class="mt-7">Watched</h2>
  <p class="soft small">
    Looked at whenever the data has been refreshed, as of the last day that has ended, and told of at most
    once a day.
  </p>
  <ul class="mt-1 max-w-3xl">
    {#each data.watches as row (row.id)}
      <li class="flex items-baseline gap-4 border-b border-(--rule) py-1.5">
        <span>{row.said}{row.policy_name ? ` (${row.policy_name})` : ""}</span>
        <button
          class="quiet ml-auto min-h-0! py-0.5!"
          onclick={() => stop(row)}
          aria-label="Watch no longer: {row.said}">No longer</button
        >
      </li>
    {/each}
  </ul>
  <form class="mt-4 flex flex-wrap items-end gap-x-4 gap-y-2" onsubmit={watch}>
    <label class="field">
      Watch for
      <select bind:value={kind} onchange={() => (values = {})}>
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
            oninput={(event) => (values = { ...values, [setting.name]: event.currentTarget.valueAsNumber })}
          />{SETTINGS[setting.name]?.[1]}
        </span>
      </label>
    {/each}
    <button class="act" type="submit" disabled={saving}>Watch</button>
  </form>
  {#if problem}<p role="alert" class="mt-2 border-l-4 border-(--alarm) pl-3">{problem.detail}</p>{/if}
{/if}
{#if notices.problem || !notices.data}<Waiting
    problem={notices.problem}
    retry={() => notices.reload()}
  />{/if}
