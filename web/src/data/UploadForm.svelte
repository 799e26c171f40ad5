<script lang="ts">
  import { apiAddress } from "../lib/base";
  import { answer, api, problemOf, Refusal, type Problem } from "../lib/api/client";
  import { number, plural } from "../lib/format";
  import { asksBeforeLeaving } from "../lib/leaving";
  import { workspace } from "../lib/workspace.svelte";
  import Waiting from "../ui/Waiting.svelte";
  import ColumnsTable from "./ColumnsTable.svelte";
  import FileFormat from "./FileFormat.svelte";
  import ZoneOfBrowser from "./ZoneOfBrowser.svelte";
  import { missing, type Inspection, type Kind, type Mapping } from "./mapping";

  /** Chooses a file, shows how it will be read and what would be rejected, and sends it. */
  let { done }: { done: () => void } = $props();

  /** How much of a file is looked at before it is sent. */
  const HEAD = 2_000_000;
  /** How files begin that end in their own description: Parquet, and the archives that spreadsheets are. */
  const INDEXED_AT_THE_END = ["PAR1", "PK\u0003\u0004"];
  const FORMATS: Record<string, string> = {
    iso8601: "year first",
    epoch_s: "Unix time (seconds)",
    epoch_ms: "Unix time (milliseconds)",
    day_first: "day first",
    month_first: "month first",
  };

  let chooser = $state<HTMLInputElement>();
  let file = $state.raw<File | null>(null);
  let looked = $state.raw<Inspection | null>(null);
  let looking = $state(false);
  let sent = $state<number | null>(null);
  let problem = $state<Problem | null>(null);
  $effect(() => asksBeforeLeaving(() => file !== null));
  const lacking = $derived(looked ? missing(looked) : []);
  const rejected = $derived(looked ? looked.check.rows - looked.check.usable : 0);

  /** What the beginning of the file holds, or all of it where it is one that ends in its own description. */
  async function look(kind?: Kind, mapping?: Mapping) {
    if (!file) return;
    looking = true;
    problem = null;
    try {
      const whole = file.size <= HEAD || INDEXED_AT_THE_END.includes(await file.slice(0, 4).text());
      const form = new FormData();
      if (kind) form.append("kind", kind);
      if (mapping) form.append("mapping", JSON.stringify(mapping));
      form.append("whole", String(whole));
      form.append("file", whole ? file : file.slice(0, HEAD), file.name);
      looked = await answer(api.POST("/imports/inspect", { body: {} as never, bodySerializer: () => form }));
    } catch (error) {
      problem = problemOf(error);
      if (!mapping) looked = null;
    } finally {
      looking = false;
    }
  }

  function change(mapping: Mapping) {
    looked = { ...looked!, mapping };
    void look(looked.kind, mapping);
  }

  /** What the user chose of the file itself, which its columns depend on. */
  const fileForm = $derived({ encoding: looked?.mapping.encoding, sheet: looked?.mapping.sheet });

  /** The fetch interface does not tell how much of an upload is under way; this older one does. */
  function send(form: FormData): Promise<void> {
    return new Promise((resolve, reject) => {
      const request = new XMLHttpRequest();
      request.open("POST", apiAddress("/imports"));
      request.upload.onprogress = (event) => (sent = event.total ? event.loaded / event.total : 0);
      request.onerror = () =>
        reject(new Error("The upload was interrupted. Check that Estrel is running, and try again."));
      request.onload = () =>
        request.status === 201 ? resolve() : reject(new Refusal(JSON.parse(request.responseText)));
      request.send(form);
    });
  }

  async function upload(event: SubmitEvent) {
    event.preventDefault();
    if (!file || !looked || sent !== null || lacking.length) return;
    problem = null;
    try {
      const form = new FormData();
      form.append("kind", looked.kind);
      form.append("mapping", JSON.stringify(looked.mapping));
      form.append("shape", looked.shape);
      form.append("file", file);
      sent = 0;
      await send(form);
      chooser!.value = "";
      file = null;
      looked = null;
      done();
    } catch (error) {
      problem = { ...problemOf(error), detail: (error as Error).message };
    } finally {
      sent = null;
    }
  }
</script>

<form class="mt-1 flex flex-col gap-3" onsubmit={upload}>
  <label class="field border border-dashed border-(--rule-strong) px-4 py-3">
    Choose a CSV, JSON Lines, Parquet or Excel (.xlsx) file, or drop it here; CSV and JSON Lines may be gzip
    <input
      type="file"
      class="w-full border-0! bg-transparent! px-0!"
      data-testid="file"
      bind:this={chooser}
      onchange={(event) => {
        file = event.currentTarget.files?.[0] ?? null;
        looked = null;
        void look();
      }}
    />
  </label>
  {#if looking && !looked}<p class="soft" role="status">Reading the file…</p>{/if}
  {#if looked}
    <section class="flex flex-col gap-3" aria-label="File settings" aria-busy={looking}>
      <fieldset class="flex flex-wrap items-center gap-x-4 gap-y-2">
        <legend class="sr-only">Contents</legend>
        {#each [["events", "events: one row per event"], ["profiles", "people: one row per person"]] as const as [kind, text] (kind)}
          <label class="inline-flex items-center gap-2"
            ><input
              type="radio"
              name="kind"
              value={kind}
              checked={looked.kind === kind}
              onchange={() => look(kind, fileForm)}
            />
            {text}</label
          >
        {/each}
        {#if looked.remembered}<span class="soft small"
            >Using the settings of the last file with these columns</span
          >{/if}
      </fieldset>
      <FileFormat inspection={looked} choose={(form) => look(form.sheet ? undefined : looked!.kind, form)} />
      {#if looked.own}
        <p class="soft">Estrel format detected. No settings needed.</p>
      {:else}
        <ColumnsTable inspection={looked} {change} />
        <div class="flex flex-wrap items-center gap-x-6 gap-y-2">
          {#if looked.times.forms.length}
            <label class="flex items-center gap-2"
              >“{looked.times.example}” is
              <select
                aria-label="Time format"
                value={looked.mapping.time_format ?? ""}
                onchange={(event) =>
                  change({ ...looked!.mapping, time_format: event.currentTarget.value || null })}
              >
                {#if !looked.mapping.time_format}<option value="">choose a format</option>{/if}
                {#each looked.times.forms as form (form.format)}
                  <option value={form.format}>{form.said} ({FORMATS[form.format]})</option>
                {/each}
              </select>
            </label>
          {/if}
          {#if !looked.times.zoned}
            <label class="flex items-center gap-2"
              >in the time zone
              <input
                class="w-44"
                aria-label="Time zone"
                value={looked.mapping.time_zone ?? ""}
                placeholder={workspace.info?.time_zone}
                onchange={(event) =>
                  change({ ...looked!.mapping, time_zone: event.currentTarget.value.trim() || null })}
              />
            </label>
            <ZoneOfBrowser
              chosen={looked.mapping.time_zone ?? workspace.info!.time_zone}
              choose={(time_zone) => change({ ...looked!.mapping, time_zone })}
            />
          {/if}
          <label class="flex items-center gap-2"
            ><input
              type="checkbox"
              checked={looked.mapping.decimal_comma ?? false}
              onchange={(event) => change({ ...looked!.mapping, decimal_comma: event.currentTarget.checked })}
            /> decimal commas (1.234,56)</label
          >
          {#if looked.kind === "events" && !looked.mapping.columns?.type}
            <label class="flex items-center gap-2"
              >Event type of all rows
              <input
                class="w-44"
                aria-label="Event type of all rows"
                value={looked.mapping.constants?.type ?? ""}
                onchange={(event) =>
                  change({
                    ...looked!.mapping,
                    constants: { ...looked!.mapping.constants, type: event.currentTarget.value.trim() },
                  })}
              />
            </label>
          {/if}
        </div>
        {#if looked.kind === "profiles" && !looked.mapping.columns?.time}
          <fieldset class="flex flex-wrap items-center gap-x-4 gap-y-1">
            <legend class="sr-only">Values valid from</legend>
            <label class="inline-flex items-center gap-2"
              ><input
                type="radio"
                name="always"
                checked={looked.mapping.always ?? false}
                onchange={() => change({ ...looked!.mapping, always: true })}
              /> the beginning (first import)</label
            >
            <label class="inline-flex items-center gap-2"
              ><input
                type="radio"
                name="always"
                checked={!looked.mapping.always}
                onchange={() => change({ ...looked!.mapping, always: false })}
              /> now</label
            >
          </fieldset>
        {/if}
        {#if looked.kind === "events" && !looked.mapping.columns?.id}
          <p class="soft small">No event ID column, so identical rows count as one event.</p>
        {/if}
      {/if}
      {#each lacking as words (words)}<p role="alert" class="text-(--alarm)">{words}</p>{/each}
      {#if looked.check.rows}
        <p class="says max-w-none!" data-testid="check">
          Of the first {plural(looked.check.rows, "row")}, {rejected
            ? `${number(looked.check.usable)} can be used and ${number(rejected)} would be rejected.`
            : "all valid."}
        </p>
        {#each looked.check.reasons as reason (reason.reason)}
          <p class="small">
            {reason.reason} <span class="soft">{plural(reason.count, "row")}</span>
            <code class="soft block max-w-3xl truncate" title={reason.example}>{reason.example}</code>
          </p>
        {/each}
      {/if}
    </section>
  {/if}
  <div>
    <button class="act" disabled={!looked || looking || lacking.length > 0 || sent !== null}>
      {sent === null ? "Import" : `Uploading ${Math.round(sent * 100)}%`}
    </button>
  </div>
  {#if problem}<Waiting {problem} />{/if}
  <p class="soft small">
    No file? Try a sample: <a href="/kiosk-sales.csv" download>kiosk sales</a> (semicolons, decimal commas),
    <a href="/app-log.jsonl" download>app log</a>
    (nested JSON),
    <a href="/crm-people.csv" download>people</a> (30 columns).
  </p>
</form>
