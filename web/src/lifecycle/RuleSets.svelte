<script lang="ts">
  import { address } from "../lib/address.svelte";
  import { answer, api, problemOf, type Problem, type Schemas } from "../lib/api/client";
  import RuleSetForm from "./RuleSetForm.svelte";
  import Sharing, { belongs } from "../ui/Sharing.svelte";
  import StateMark from "./StateMark.svelte";
  import Waiting from "../ui/Waiting.svelte";
  import Whose from "../ui/Whose.svelte";
  import { list, moment, plural } from "../lib/format";
  import { Removing } from "../lib/removing.svelte";
  import { said } from "../lib/toasts.svelte";
  import { workspace } from "../lib/workspace.svelte";
  import { session } from "../lib/session.svelte";
  import { eventName } from "../lib/names";
  import Reserved from "../ui/Reserved.svelte";

  /** All rule sets, their versions, and the form that changes one or writes a new one. */
  type RuleSet = Schemas["RuleSet"];
  let problem = $state<Problem | null>(null);
  const removing = new Removing<RuleSet>(() => workspace.readRuleSets());
  const shown = $derived(workspace.ruleSets.filter((row) => belongs(row, address.get("whose"))));
  let versions = $state.raw<Schemas["RuleSetVersions"] | null>(null);
  const editing = $derived(address.get("edit"));
  const edited = $derived(
    editing === null || editing === "new"
      ? null
      : (workspace.ruleSets.find(
          (row) => String(row.id) === editing || (editing === "first" && row.id === null),
        ) ?? null),
  );

  const start = $derived.by(() => {
    const from = edited ?? workspace.ruleSet;
    const days = (name: string, otherwise: number) => Number(address.get(name)) || otherwise;
    return {
      ...(from ?? { activity: [], new_for: 30, active_within: 30, churned_after: 90 }),
      name: edited?.name ?? "",
      active_within: days("dormant", from?.active_within ?? 30),
      churned_after: days("churned", from?.churned_after ?? 90),
    };
  });

  function edit(which: string | null): string {
    return address.with({ edit: which, dormant: null, churned: null });
  }

  async function attempt(what: () => Promise<unknown>) {
    problem = null;
    try {
      await what();
      await workspace.readRuleSets();
    } catch (error) {
      problem = problemOf(error);
    }
  }

  async function makeDefault(row: RuleSet) {
    const before = workspace.ruleSets.find((other) => other.default);
    const put = (id: number) =>
      answer(api.PUT("/rule-sets/{id}", { params: { path: { id } }, body: { default: true } }));
    await attempt(async () => {
      await put(row.id!);
      address.go(address.with({ rules: null }), { replace: true });
      said(
        `“${row.name}” is now the default`,
        before?.id
          ? async () => {
              await put(before.id!);
              await workspace.readRuleSets();
            }
          : undefined,
      );
    });
  }

  async function remove(row: RuleSet) {
    const params = { path: { id: row.id! } };
    await removing.remove(
      row,
      shown,
      () => answer(api.DELETE("/rule-sets/{id}", { params })),
      () => answer(api.POST("/rule-sets/{id}/restore", { params })),
    );
  }

  async function history(row: RuleSet) {
    if (versions?.id === row.id) versions = null;
    else
      await attempt(
        async () =>
          (versions = await answer(api.GET("/rule-sets/{id}", { params: { path: { id: row.id! } } }))),
      );
  }

  async function restore(version: Schemas["RuleSetVersions"]["versions"][number]) {
    const id = versions!.id!;
    const { activity, new_for, active_within, churned_after, population, channel } = version;
    await attempt(async () => {
      await answer(
        api.PUT("/rule-sets/{id}", {
          params: { path: { id } },
          body: { activity, new_for, active_within, churned_after, population, channel },
        }),
      );
      versions = await answer(api.GET("/rule-sets/{id}", { params: { path: { id } } }));
      said(`Version ${version.number} has been restored`);
    });
  }

  function signs(activity: Schemas["ActivitySign"][]): string {
    return list(
      activity.map((sign) =>
        typeof sign === "string"
          ? eventName(sign)
          : `${eventName(sign.event)}${sign.where?.length ? ` (with ${plural(sign.where.length, "condition")})` : ""}`,
      ),
    );
  }
</script>

{#if editing !== null && session.may("analyst")}
  <h2 class="mt-3">{edited ? `Edit “${edited.name}”` : "New rule set"}</h2>
  {#key editing}
    <RuleSetForm
      ruleSet={edited}
      {start}
      suggested={address.get("dormant") !== null || address.get("churned") !== null}
      done={() => address.go(edit(null))}
    />
  {/key}
{:else}
  <div class="mt-3 flex items-baseline gap-4">
    <h2>Lifecycle rules</h2>
    {#if session.may("analyst")}<a class="act" href={edit("new")}>New rule set</a>{/if}
    <Whose />
  </div>
  <p class="soft small max-w-prose">
    Figures use the default rules unless you choose others. An audience can use another rule set, in its
    latest or a fixed version.
  </p>
  <Reserved role="analyst" what="change rule sets" />
  {#if problem ?? removing.problem}<Waiting problem={problem ?? removing.problem} />{/if}
  <ul class="mt-3 max-w-4xl" data-testid="rule-sets">
    {#each removing.placed(shown) as { row, gone } (row.id)}
      <li class="border-b border-(--rule) py-3 {gone ? 'opacity-50' : ''}" inert={gone}>
        <div class="flex flex-wrap items-baseline gap-x-4 gap-y-1">
          <strong class="text-[1.05rem]">{row.name}</strong>
          {#if row.default}<span class="small">default</span>{/if}
          {#if row.version}<span class="soft small">version {row.version}</span>{/if}
          {#if row.id !== null}<Sharing place="rule-sets" {row} changed={() => workspace.refresh()} />{/if}
          <span class="ml-auto flex gap-2">
            {#if session.may("analyst")}
              <a
                class="quiet min-h-0! py-0.5!"
                href={edit(row.id === null ? "first" : String(row.id))}
                aria-label="Change {row.name}">Change</a
              >
            {/if}
            {#if row.id !== null}
              {#if !row.default && session.may("analyst")}
                <button
                  class="quiet min-h-0! py-0.5!"
                  onclick={() => makeDefault(row)}
                  aria-label="Make default: {row.name}">Make default</button
                >
                <button
                  class="quiet min-h-0! py-0.5!"
                  onclick={() => remove(row)}
                  aria-label="Delete {row.name}">{gone ? "Deleted" : "Delete"}</button
                >
              {/if}
              <button
                class="quiet min-h-0! py-0.5!"
                aria-expanded={versions?.id === row.id}
                onclick={() => history(row)}
                aria-label="Version history of {row.name}">Version history</button
              >
            {/if}
          </span>
        </div>
        <p class="says mt-1 text-[1.05rem]! leading-7!">
          <StateMark state="new" label={false} /> new for {plural(row.new_for, "day")},
          <StateMark state="dormant" label={false} /> dormant after {row.active_within} inactive days,
          <StateMark state="churned" label={false} /> churned after {row.churned_after}; activity: {signs(
            row.activity,
          )}{row.population ? `, among “${row.population_name ?? "a deleted audience"}”` : ""}{row.channel
            ? `, reachable by ${row.channel}`
            : ""}.
        </p>
        {#if row.hidden.length}
          <p class="mt-1 border-l-4 border-(--alarm) pl-3">
            {list(row.hidden)}
            {row.hidden.length === 1 ? "is" : "are"} hidden, merged or marked as not activity in the
            <a href={address.to("/data/catalogue")}>catalogue</a>. Hidden types still count as activity; types
            marked as not activity do not.
          </p>
        {/if}
        {#if versions && versions.id === row.id}
          <ol class="mt-2 border-l-2 border-(--rule) pl-4">
            {#each versions.versions as version, index (version.number)}
              <li class="py-1">
                <span class="font-semibold">Version {version.number}</span>
                <span class="soft small"
                  >{moment(version.created_at, workspace.info!.time_zone)}{version.author
                    ? `, ${version.author}`
                    : ""}</span
                >
                {#if index > 0 && session.may("analyst")}<button
                    class="quiet ml-2 min-h-0! py-0!"
                    onclick={() => restore(version)}>Restore this version</button
                  >{/if}
                <br />new {version.new_for}, dormant {version.active_within}, churned {version.churned_after} days;
                {signs(version.activity)}{version.population
                  ? `, among “${version.population_name ?? "a deleted audience"}”`
                  : ""}{version.channel ? `, reachable by ${version.channel}` : ""}
              </li>
            {/each}
          </ol>
        {/if}
      </li>
    {/each}
  </ul>
{/if}
