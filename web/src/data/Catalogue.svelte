<script lang="ts">
  import { address } from "../lib/address.svelte";
  import { answer, api, type Schemas } from "../lib/api/client";
  import EventTypeDetail from "./EventTypeDetail.svelte";
  import FieldsTable from "./FieldsTable.svelte";
  import Volume from "./Volume.svelte";
  import Waiting from "../ui/Waiting.svelte";
  import { day, number, plural } from "../lib/format";
  import { Live } from "../lib/live.svelte";
  import { workspace } from "../lib/workspace.svelte";

  const NO_FOLDER = "No folder";

  const survey = new Live((signal) => {
    return answer(api.GET("/catalogue/survey", { params: { query: { as_of: workspace.asOf } }, signal }));
  });
  const open = $derived(address.get("type"));
  const showHidden = $derived(address.get("hidden") === "shown");
  const types = $derived((survey.data?.event_types ?? []).filter((type) => showHidden || !type.hidden));
  const hidden = $derived((survey.data?.event_types ?? []).filter((type) => type.hidden).length);
  const fresh = $derived(types.filter((type) => type.fresh).map((type) => type.name));
  const folders = $derived(
    Object.entries(Object.groupBy(types, (type) => type.folder || NO_FOLDER)).sort(
      ([one], [other]) =>
        Number(one === NO_FOLDER) - Number(other === NO_FOLDER) || one.localeCompare(other, "en"),
    ),
  );

  async function change(field: Schemas["SurveyedField"], body: Schemas["FieldSaid"]) {
    await answer(api.PUT("/catalogue/attributes/{id}", { params: { path: { id: field.id } }, body }));
    await survey.reload();
  }
</script>

{#if survey.data}
  {@const data = survey.data}
  <p class="says mt-2 max-w-none">
    {plural(data.event_types.length, "event type")} and {plural(data.attributes.length, "attribute")} as of {day(
      data.as_of,
    )}{fresh.length ? `; new in the last seven days: ${fresh.join(", ")}` : ""}.
  </p>
  {#if data.customer_ids_like_addresses}
    <p role="alert" class="mt-3 max-w-2xl border-l-4 border-(--alarm) pl-4">
      {plural(data.customer_ids_like_addresses, "customer ID looks", "customer IDs look")} like email addresses.
      These people can be reached only if their <em>email</em> identifier is also set.
    </p>
  {/if}

  <div class="mt-4 overflow-x-auto">
    <table class="figures">
      <thead>
        <tr>
          <th class="w-64">Event type</th><th>Last 30 days</th><th class="number">Events</th>
          <th class="number">First seen</th><th class="number">Last seen</th>
          <th class="w-1/3 pl-6!">Description</th>
        </tr>
      </thead>
      {#each folders as [folder, list] (folder)}
        <tbody>
          {#if folders.length > 1 || folder !== NO_FOLDER}
            <tr
              ><th colspan="6" scope="rowgroup" class="pt-4! font-serif text-[1.05rem]! text-(--ink)!"
                >{folder}</th
              ></tr
            >
          {/if}
          {#each list ?? [] as type (type.id)}
            <tr data-testid="type-{type.name}" class={type.hidden ? "opacity-60" : ""}>
              <td>
                <a
                  class="font-semibold"
                  aria-expanded={open === type.name}
                  href={address.with({ type: open === type.name ? null : type.name })}
                  >{type.noun ?? type.suggested}</a
                >
                {#if type.fresh}<span class="small ml-1 border border-(--accent) px-1 text-(--accent)"
                    >new</span
                  >{/if}
                <span class="soft small block leading-5">
                  {[
                    type.name === (type.noun ?? type.suggested) ? "" : type.name,
                    type.merged_into ? `merged into ${type.merged_into}` : "",
                    type.not_activity ? "not activity" : "",
                    type.hidden ? "hidden" : "",
                    type.mixed ? "⚑ a property changed type" : "",
                  ]
                    .filter(Boolean)
                    .join(" · ")}
                </span>
              </td>
              <td><Volume counts={type.volume} /></td>
              <td class="number">{number(type.count)}</td>
              <td class="number">{day(type.first_day)}</td>
              <td class="number">{day(type.last_day)}</td>
              <td class="small pl-6! leading-6">{type.description || "–"}</td>
            </tr>
            {#if open === type.name}
              <tr>
                <td colspan="6" class="bg-(--paper-deep) px-4! py-4!">
                  <EventTypeDetail
                    {type}
                    others={data.event_types}
                    changed={async () => {
                      await survey.reload();
                      await workspace.refresh();
                    }}
                  />
                </td>
              </tr>
            {/if}
          {/each}
        </tbody>
      {/each}
    </table>
  </div>
  {#if hidden}
    <a class="quiet mt-3" href={address.with({ hidden: showHidden ? null : "shown" })}
      >{showHidden ? "Hide" : "Show"} {plural(hidden, "hidden event type")}</a
    >
  {/if}

  <h2 class="mt-8">Attributes</h2>
  {#if data.attributes.length}
    <div class="overflow-x-auto">
      <FieldsTable fields={data.attributes} what="Attribute" keep={change} />
    </div>
  {:else}
    <p class="soft">No attributes yet.</p>
  {/if}
{:else}
  <Waiting problem={survey.problem} retry={() => survey.reload()} />
{/if}
