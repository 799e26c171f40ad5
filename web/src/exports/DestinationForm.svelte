<script lang="ts">
  import { untrack } from "svelte";
  import type { Schemas } from "../lib/api/client";
  import { Form } from "../lib/form.svelte";
  import NumberField from "../ui/NumberField.svelte";

  /** A destination that is made, or a webhook that is changed. */
  let {
    row,
    keep,
    leave,
  }: {
    /** Null for a new one. */
    row: Schemas["Destination"] | null;
    /** Tells whether it was kept. */
    keep: (given: Schemas["DestinationGiven"]) => Promise<boolean>;
    leave: () => void;
  } = $props();

  const NEW = {
    name: "",
    kind: "folder",
    folder: "",
    url: "",
    size: 500,
    rate: null,
    timeout: 30,
    notices: false,
  };
  type Fields = Omit<typeof NEW, "rate"> & { rate: number | null; secret: string };
  const form = untrack(
    () => new Form<Fields>(`destination-${row?.id ?? "new"}`, begun(), { secret: ["secret"] }),
  );
  const fields = $derived(form.fields);
  let working = $state(false);

  function begun(): Fields {
    if (!row) return { ...NEW, secret: "" };
    const { url, batch_size, rows_per_second, timeout, notices = false } = row.settings;
    const settings = {
      url: url!,
      size: batch_size!,
      rate: rows_per_second ?? null,
      timeout: timeout!,
      notices,
    };
    return { ...NEW, name: row.name, kind: row.kind, ...settings, secret: "" };
  }

  function given(): Schemas["DestinationGiven"] {
    const { name, folder, url, size, rate, timeout, notices, secret } = fields;
    if (fields.kind === "folder") return { name, kind: "folder", settings: { folder } };
    const settings = { url, batch_size: size, timeout, notices, ...(rate ? { rows_per_second: rate } : {}) };
    return { name, kind: "webhook", settings, ...(secret ? { secret } : {}) };
  }

  async function submit(event: SubmitEvent) {
    event.preventDefault();
    working = true;
    if (await keep(given())) form.end();
    working = false;
  }
</script>

<form class="mt-3 flex flex-wrap items-end gap-3" onsubmit={submit}>
  {#if !row}
    <label class="field"
      >New <select bind:value={form.fields.kind}
        ><option value="folder">folder</option><option value="webhook">webhook</option></select
      ></label
    >
  {/if}
  <label class="field">called <input required maxlength="255" bind:value={form.fields.name} /></label>
  {#if fields.kind === "folder"}
    <label class="field"
      >in the folder <input required maxlength="100" bind:value={form.fields.folder} /></label
    >
  {:else}
    <label class="field"
      >at the address <input
        required
        type="url"
        size="34"
        placeholder="https://messages.example.com/people"
        bind:value={form.fields.url}
      /></label
    >
    <NumberField label="People per message" required max="5000" bind:value={form.fields.size} />
    <NumberField
      label="Max. people per second"
      max="100000"
      placeholder="any"
      bind:value={form.fields.rate}
    />
    <NumberField label="Timeout (seconds)" required max="120" bind:value={form.fields.timeout} />
    <label class="flex items-center gap-2 pb-1.5"
      ><input type="checkbox" bind:checked={form.fields.notices} /> Also send run and alert notifications</label
    >
    <label class="field"
      >secret <input
        type="password"
        size="26"
        autocomplete="off"
        placeholder={row ? "unchanged" : "generated automatically"}
        bind:value={form.fields.secret}
      /></label
    >
  {/if}
  <button class="quiet" disabled={working}>{row ? `Save ${row.name}` : "Create destination"}</button>
  {#if row}<button type="button" class="quiet" onclick={() => (form.end(), leave())}>Cancel</button>{/if}
</form>
