<script lang="ts">
  import { untrack } from "svelte";
  import { answer, api, problemOf, type Problem, type Schemas } from "../lib/api/client";
  import { Form } from "../lib/form.svelte";
  import Waiting from "../ui/Waiting.svelte";

  /** Adds a source, or changes what one may send. */
  let {
    source,
    done,
  }: { source?: Schemas["Source"]; done: (made: Schemas["IssuedKey"] | Schemas["Source"] | null) => void } =
    $props();

  const form = untrack(
    () =>
      new Form(`source-${source?.id ?? "new"}`, {
        name: "",
        description: source?.description ?? "",
        types: source?.allowed_types?.join(", ") ?? "",
        limit: source?.events_per_minute ?? null,
      }),
  );
  let problem = $state<Problem | null>(null);
  let working = $state(false);

  function leave(made: Parameters<typeof done>[0] = null) {
    form.end();
    done(made);
  }

  async function save(event: SubmitEvent) {
    event.preventDefault();
    if (working) return;
    working = true;
    problem = null;
    const { name, description, types, limit } = form.fields;
    const allowed = types
      .split(",")
      .map((type) => type.trim())
      .filter(Boolean);
    const settings = {
      description,
      allowed_types: allowed.length ? allowed : null,
      events_per_minute: limit,
    };
    try {
      leave(
        source
          ? await answer(api.PUT("/sources/{id}", { params: { path: { id: source.id } }, body: settings }))
          : await answer(api.POST("/sources", { body: { name, ...settings } })),
      );
    } catch (error) {
      problem = problemOf(error);
    } finally {
      working = false;
    }
  }
</script>

<form class="my-3 max-w-2xl border-l-2 border-(--rule-strong) pl-4" onsubmit={save}>
  <div class="flex flex-wrap gap-4">
    {#if !source}
      <label class="field w-56"
        >Name<input bind:value={form.fields.name} required placeholder="web, app, kiosk …" /></label
      >
    {/if}
    <label class="field flex-1"
      >Description<input bind:value={form.fields.description} maxlength="1000" /></label
    >
  </div>
  <div class="mt-3 flex flex-wrap gap-4">
    <label class="field flex-1"
      >Allowed event types (comma-separated; leave empty for all)<input
        bind:value={form.fields.types}
        placeholder="ride_ended, pass_bought"
      /></label
    >
    <label class="field w-44"
      >Rate limit (events per minute)<input
        type="number"
        min="1"
        placeholder="no limit"
        bind:value={form.fields.limit}
      /></label
    >
  </div>
  {#if problem}<Waiting {problem} />{/if}
  <div class="mt-3 flex gap-2">
    <button class="act" disabled={working}>{source ? "Save" : "Add source"}</button>
    <button class="quiet" type="button" onclick={() => leave()}>Cancel</button>
  </div>
</form>
