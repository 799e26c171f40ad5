<script lang="ts">
  import { answer, api, problemOf, type Problem, type Schemas } from "../lib/api/client";
  import { Form } from "../lib/form.svelte";
  import SourceForm from "./SourceForm.svelte";
  import Waiting from "../ui/Waiting.svelte";
  import { moment, number } from "../lib/format";
  import { Resource } from "../lib/resource.svelte";
  import { said } from "../lib/toasts.svelte";
  import { workspace } from "../lib/workspace.svelte";
  import { session } from "../lib/session.svelte";
  import RemoveButton from "../ui/RemoveButton.svelte";
  import Reserved from "../ui/Reserved.svelte";

  const sources = new Resource((signal) => answer(api.GET("/sources", { signal })));

  let adding = $state(Form.kept("source-new"));
  let editing = $state<number | null>(null);
  let issued = $state<{ name: string; key: string } | null>(null);
  let problem = $state<Problem | null>(null);
  const zone = $derived(workspace.info!.time_zone);

  async function attempt(work: () => Promise<void>) {
    problem = null;
    try {
      await work();
      await sources.reload();
    } catch (error) {
      problem = problemOf(error);
    }
  }

  function rotate(source: Schemas["Source"], hours: number) {
    return attempt(async () => {
      const params = { path: { id: source.id } };
      const made = await answer(api.POST("/sources/{id}/keys", { params, body: { overlap_hours: hours } }));
      issued = { name: source.name, key: made.key };
    });
  }

  function revoke(source: Schemas["Source"], key: number) {
    return attempt(async () => {
      await answer(api.DELETE("/sources/{id}/keys/{key}", { params: { path: { id: source.id, key } } }));
      said("Key revoked. It no longer works.");
    });
  }

  async function copy() {
    await navigator.clipboard.writeText(issued!.key);
    said("Copied");
  }
</script>

<p class="says mt-2 max-w-none">
  Sources send events in real time to <code class="text-[0.95rem]">{sources.data?.collector ?? "…"}</code>.
</p>
<p class="soft mt-1 max-w-2xl">
  Each source has its own sending key. Events use CloudEvents 1.0; repeated events (same source and ID) are
  ignored. See the <a href="/sender/example.html" target="_blank">browser example</a>.
</p>

{#if issued}
  <div role="status" class="my-4 max-w-3xl border-l-4 border-(--accent) pl-4" data-testid="issued-key">
    <p class="font-semibold">Sending key of {issued.name}. Copy it now; it is not shown again:</p>
    <p class="my-2 flex flex-wrap items-center gap-3">
      <code class="bg-(--paper-deep) px-2 py-1 break-all">{issued.key}</code>
      <button class="quiet" onclick={copy}>Copy</button>
      <button class="quiet" onclick={() => (issued = null)}>Done</button>
    </p>
    <p class="soft small">
      Only a hash is stored. Anyone with this key can send events as {issued.name}, and nothing else.
    </p>
  </div>
{/if}
{#if problem}<Waiting {problem} />{/if}

<div class="mt-4">
  {#if adding}
    <SourceForm
      done={(made) => {
        adding = false;
        if (made && "key" in made) issued = { name: made.source.name, key: made.key };
        void sources.reload();
      }}
    />
  {:else}
    <Reserved role="administrator" what="add and change sources"
      ><button class="act" onclick={() => (adding = true)}>Add a source</button></Reserved
    >
  {/if}
</div>

{#if sources.data}
  {#each sources.data.sources as source (source.id)}
    <section class="mt-6 border-t border-(--rule-strong) pt-3" data-testid="source-{source.name}">
      <div class="flex flex-wrap items-baseline gap-x-5 gap-y-1">
        <h2>{source.name}</h2>
        <span class="soft">{source.description}</span>
        {#if session.may("administrator")}<span class="ml-auto flex gap-2">
            <button class="quiet" onclick={() => (editing = editing === source.id ? null : source.id)}
              >Edit limits</button
            >
            {#if source.keys.some((key) => key.state === "in use")}
              <button
                class="quiet"
                onclick={() => rotate(source, 24)}
                title="The old key keeps working for 24 hours">Rotate key</button
              >
            {:else}
              <button class="quiet" onclick={() => rotate(source, 0)}>Create key</button>
            {/if}
          </span>{/if}
      </div>
      <p class="soft small">
        {source.allowed_types
          ? `Allowed event types: ${source.allowed_types.join(", ")}`
          : "All event types allowed"}{source.events_per_minute
          ? `, at most ${number(source.events_per_minute)} events a minute`
          : ""}.{source.keys.length ? "" : " No key; receives events from files only."}
      </p>
      {#if editing === source.id || Form.kept(`source-${source.id}`)}
        <SourceForm
          {source}
          done={() => {
            editing = null;
            void sources.reload();
          }}
        />
      {/if}
      {#if source.keys.length}
        <table class="figures mt-1 max-w-3xl">
          <thead>
            <tr
              ><th>Key</th><th>State</th><th>Created</th><th>Last used</th><th
                ><span class="sr-only">Actions</span></th
              ></tr
            >
          </thead>
          <tbody>
            {#each source.keys as key (key.id)}
              <tr>
                <td><code>{key.hint}</code></td>
                <td class={key.state === "revoked" || key.state === "expired" ? "soft" : ""}>
                  {key.state}{key.state === "ending" ? `, works until ${moment(key.expires_at!, zone)}` : ""}
                </td>
                <td>{moment(key.created_at, zone)}</td>
                <td>{key.last_used_at ? moment(key.last_used_at, zone) : "never"}</td>
                <td class="number">
                  {#if session.may("administrator") && (key.state === "in use" || key.state === "ending")}
                    <RemoveButton
                      verb="Revoke"
                      name="the key {key.hint}"
                      remove={() => revoke(source, key.id)}
                    />
                  {/if}
                </td>
              </tr>
            {/each}
          </tbody>
        </table>
      {/if}
    </section>
  {:else}
    <p class="soft mt-6">No sources yet. Add one to receive events in real time.</p>
  {/each}
{:else}
  <Waiting problem={sources.problem} retry={() => sources.reload()} />
{/if}
