<script lang="ts">
  import { address } from "../lib/address.svelte";
  import { answer, api, type Schemas } from "../lib/api/client";
  import Downloads from "../ui/Downloads.svelte";
  import Effect from "./Effect.svelte";
  import RunsTable from "./RunsTable.svelte";
  import RefusedPeople from "./RefusedPeople.svelte";
  import StepPeople from "./StepPeople.svelte";
  import Waiting from "../ui/Waiting.svelte";
  import WaterfallTable from "./WaterfallTable.svelte";
  import { day, moment, number } from "../lib/format";
  import { workspace } from "../lib/workspace.svelte";
  import { stepNamed } from "./exports";
  import { polling } from "../lib/polling.svelte";
  import { Resource } from "../lib/resource.svelte";

  /** One run: what became of everybody, and the file. */
  let { id }: { id: number } = $props();

  const run = new Resource((signal) => answer(api.GET("/runs/{id}", { params: { path: { id } }, signal })));
  polling(
    () => (run.data ? [run.data] : []),
    () => run.reload(),
  );
  const step = $derived(stepNamed(address.get("step")));
  const page = $derived(Number(address.get("page") ?? 1));
</script>

{#snippet facts(data: Schemas["Run"])}
  <div class="mt-6"><RunsTable runs={[data]} changed={() => run.reload()} /></div>
  {#if data.push?.refused}{#key data.push.refused}<RefusedPeople {id} />{/key}{/if}
{/snippet}

<p class="soft small">
  <a href={address.to("/exports")}>Exports</a> / {#if run.data}<a
      href={address.to(`/exports/${run.data.export_id}`)}>{run.data.export}</a
    > /{/if}
</p>
{#if run.data}
  {@const data = run.data}
  <h1>
    Run {data.id}, as of {day(data.as_of)}{#if data.exported_at}, exported {moment(
        data.exported_at,
        workspace.info!.time_zone,
      )}{/if}
  </h1>
  <p class="says mt-1 max-w-none" data-testid="finding">
    {#if data.state === "done" && data.people}
      {number(data.people.exported)} of {number(data.people.audience)} people in “{data.audience}” were
      exported{data.people.holdout ? `; ${number(data.people.holdout)} are in the holdout` : ""}.
    {:else if data.push?.half_way}
      Stopped after {number(data.push.taken)} people. {data.error}
    {:else if data.state === "failed"}
      Nothing was exported. {data.error}
    {:else if data.state === "waiting"}
      Waiting: {data.waits_because}
    {:else if data.state === "cancelled"}
      This run was cancelled; nothing was exported.
    {:else}
      Running…
    {/if}
  </p>
  {#if data.state !== "done"}{@render facts(data)}{/if}
  {#if data.people}
    <h2 class="mt-6">
      Export summary
      <span class="ml-3 font-sans text-[0.85rem] font-normal"
        ><Downloads
          name="waterfall"
          rows={Object.entries(data.people).map(([name, people]) => ({ step: name, people }))}
        /></span
      >
    </h2>
    <div class="overflow-x-auto">
      <WaterfallTable
        people={data.people}
        channel={data.rules.channel}
        opened={step}
        open={(one) => address.go(address.with({ step: one, page: null }))}
      />
    </div>
    {#if step && data.state === "done"}
      {#key step + page}
        <StepPeople
          {step}
          channel={data.rules.channel}
          load={(one, signal) =>
            answer(
              api.GET("/runs/{id}/people", { params: { path: { id }, query: { step: one, page } }, signal }),
            )}
          close={() => address.go(address.with({ step: null, page: null }))}
        />
      {/key}
    {/if}
    {#if data.state === "done" && data.people.holdout}<div class="min-h-dvh">
        <Effect of={{ run: id }} />
      </div>{/if}
  {/if}
  {#if data.state === "done"}{@render facts(data)}{/if}
{:else}
  <Waiting problem={run.problem} retry={() => run.reload()} />
{/if}
