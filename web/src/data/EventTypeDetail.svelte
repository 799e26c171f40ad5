<script lang="ts">
  import { answer, api, problemOf, type Problem, type Schemas } from "../lib/api/client";
  import { Live } from "../lib/live.svelte";
  import { said } from "../lib/toasts.svelte";
  import { workspace } from "../lib/workspace.svelte";
  import Described from "../ui/Described.svelte";
  import FieldsTable from "./FieldsTable.svelte";
  import Waiting from "../ui/Waiting.svelte";

  /** One event type: what an analyst says about it, and its properties. */
  let {
    type,
    others,
    changed,
  }: {
    type: Schemas["SurveyedType"];
    others: Schemas["SurveyedType"][];
    changed: () => Promise<void>;
  } = $props();

  type Changes = NonNullable<Parameters<typeof put>[0]>;
  let problem = $state<Problem | null>(null);
  const detail = new Live((signal) => {
    const params = { path: { id: type.id }, query: { as_of: workspace.asOf } };
    return answer(api.GET("/catalogue/types/{id}", { params, signal }));
  });
  const targets = $derived(others.filter((other) => other.id !== type.id && !other.merged_into));
  const folders = $derived([...new Set(others.map((other) => other.folder).filter(Boolean))]);

  function put(body: {
    description?: string;
    noun?: string | null;
    phrase?: string | null;
    folder?: string;
    not_activity?: boolean;
    hidden?: boolean;
    merged_into?: string | null;
  }) {
    return answer(api.PUT("/catalogue/types/{id}", { params: { path: { id: type.id } }, body }));
  }

  async function change(changes: Changes, words?: string, undo?: Changes) {
    problem = null;
    try {
      await put(changes);
      await changed();
      if (words) said(words, undo && (() => void change(undo)));
    } catch (error) {
      problem = problemOf(error);
    }
  }

  function merge(name: string) {
    const before = { merged_into: type.merged_into };
    const words = name ? `${type.name} is now merged into ${name}` : `${type.name} is no longer merged`;
    return change({ merged_into: name || null }, words, before);
  }

  async function changeField(field: Schemas["SurveyedField"], body: Schemas["FieldSaid"]) {
    await answer(api.PUT("/catalogue/properties/{id}", { params: { path: { id: field.id } }, body }));
    await detail.reload();
  }
</script>

<div class="flex flex-wrap items-end gap-x-6 gap-y-3">
  <label class="field w-44"
    >Name
    <Described
      text={type.noun ?? ""}
      label="Name of {type.name}"
      placeholder={type.suggested}
      most={120}
      keep={async (noun) => {
        await put({ noun: noun || null });
        await changed();
      }}
    /></label
  >
  <label class="field w-52"
    >People who …
    <Described
      text={type.phrase ?? ""}
      label="Phrase after “People who” for {type.name}"
      placeholder={type.suggested_phrase ?? `had “${type.noun ?? type.suggested}” events`}
      most={160}
      keep={async (phrase) => {
        await put({ phrase: phrase || null });
        await changed();
      }}
    /></label
  >
  <label class="field min-w-64 flex-1"
    >Description
    <Described
      text={type.description}
      label="Description of {type.name}"
      keep={async (description) => {
        await put({ description });
        await changed();
      }}
    /></label
  >
  <label class="field w-44"
    >Folder
    <input
      list="folders"
      value={type.folder}
      maxlength="255"
      onchange={(event) => change({ folder: event.currentTarget.value.trim() })}
    /></label
  >
  <datalist id="folders"
    >{#each folders as folder (folder)}<option value={folder}></option>{/each}</datalist
  >
  <label class="field w-52"
    >Merge into
    <select value={type.merged_into ?? ""} onchange={(event) => merge(event.currentTarget.value)}>
      <option value="">(not merged)</option>
      {#each targets as target (target.id)}<option value={target.name}>{target.name}</option>{/each}
    </select></label
  >
  <label class="flex items-center gap-2 pb-1.5"
    ><input
      type="checkbox"
      checked={type.not_activity}
      onchange={(event) => change({ not_activity: event.currentTarget.checked })}
    /> Does not count as activity</label
  >
  <label class="flex items-center gap-2 pb-1.5"
    ><input
      type="checkbox"
      checked={type.hidden}
      onchange={(event) =>
        change(
          { hidden: event.currentTarget.checked },
          event.currentTarget.checked ? `${type.name} is hidden` : undefined,
          {
            hidden: type.hidden,
          },
        )}
    /> hidden</label
  >
</div>
{#if problem}<Waiting {problem} />{/if}
{#if type.merged_into}
  <p class="soft mt-3">
    Counted as {type.merged_into}. Stored events are unchanged.
  </p>
{:else if detail.data}
  {#if detail.data.properties.length}
    <div class="mt-4 overflow-x-auto">
      <FieldsTable fields={detail.data.properties} what="Property" keep={changeField} />
    </div>
  {:else}
    <p class="soft mt-3">No properties.</p>
  {/if}
{:else}
  <Waiting problem={detail.problem} retry={() => detail.reload()} />
{/if}
