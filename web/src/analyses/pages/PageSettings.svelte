<script lang="ts">
  import ExportSchedule from "../../exports/ExportSchedule.svelte";
  import { answer, api } from "../../lib/api/client";
  import { Resource } from "../../lib/resource.svelte";
  import PhraseSelect from "../../ui/PhraseSelect.svelte";
  import type { Written } from "./pages";

  /** The name of a page, who sees it, and where and when it is sent by itself. */
  let { draft = $bindable() }: { draft: Written } = $props();

  const destinations = new Resource((signal) => answer(api.GET("/destinations", { signal })));
</script>

<input
  class="w-full font-serif text-[1.5rem]"
  aria-label="Name of the report"
  maxlength="255"
  bind:value={draft.name}
/>
<p class="says mt-2 max-w-none">
  Visibility: <PhraseSelect
    label="Who sees it"
    ink="who"
    value={draft.private}
    options={[
      ["false", "shared"],
      ["true", "private"],
    ]}
    choose={(value) => (draft.private = value === "true")}
  />; send to <PhraseSelect
    label="Destination"
    ink="who"
    value={draft.destination_id}
    options={[
      ["", "no destination"],
      ...(destinations.data?.destinations ?? []).map(
        ({ id, name, kind }) => [String(id), kind === "folder" ? `the folder ${name}` : name] as const,
      ),
    ]}
    choose={(id) => {
      draft.destination_id = Number(id) || null;
      if (!draft.destination_id) draft.schedule = null;
    }}
  />{#if draft.destination_id}, <ExportSchedule
      bind:schedule={() => draft.schedule, (found) => (draft.schedule = found as Written["schedule"])}
      refreshes={false}
    />{:else}.{/if}
</p>
