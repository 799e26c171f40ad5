<script lang="ts">
  import { problemOf, Refusal, type Problem } from "../lib/api/client";
  import Waiting from "../ui/Waiting.svelte";

  /** Chooses a file and how to read it, and sends it. */
  let { done }: { done: () => void } = $props();

  let files = $state<FileList>();
  let kind = $state<"events" | "profiles">("events");
  let timeFormat = $state("");
  let mapping = $state("");
  let sent = $state<number | null>(null);
  let problem = $state<Problem | null>(null);

  function options(): string {
    const chosen = mapping.trim() ? JSON.parse(mapping) : {};
    return JSON.stringify(timeFormat ? { ...chosen, time_format: timeFormat } : chosen);
  }

  /** The fetch interface does not tell how much of an upload is under way; this older one does. */
  function send(form: FormData): Promise<void> {
    return new Promise((resolve, reject) => {
      const request = new XMLHttpRequest();
      request.open("POST", "/api/imports");
      request.upload.onprogress = (event) => (sent = event.total ? event.loaded / event.total : 0);
      request.onerror = () => reject(new Error("The upload broke off. Is Estrel still running?"));
      request.onload = () =>
        request.status === 201 ? resolve() : reject(new Refusal(JSON.parse(request.responseText)));
      request.send(form);
    });
  }

  async function upload(event: SubmitEvent) {
    event.preventDefault();
    const file = files?.[0];
    if (!file || sent !== null) return;
    problem = null;
    try {
      const form = new FormData();
      form.append("kind", kind);
      form.append("mapping", options());
      form.append("file", file);
      sent = 0;
      await send(form);
      files = new DataTransfer().files;
      done();
    } catch (error) {
      const syntax = error instanceof SyntaxError ? new Error("The mapping is not valid JSON.") : error;
      problem = { ...problemOf(syntax), detail: (syntax as Error).message };
    } finally {
      sent = null;
    }
  }
</script>

<form class="mt-1 flex flex-col gap-3" onsubmit={upload}>
  <label class="field border border-dashed border-(--rule-strong) px-4 py-3">
    Choose a CSV or JSON Lines file, plain or gzip, or drop it here
    <input type="file" class="w-full border-0! bg-transparent! px-0!" data-testid="file" bind:files />
  </label>
  <div class="flex flex-wrap items-center gap-x-6 gap-y-2">
    <fieldset class="flex items-center gap-4">
      <legend class="sr-only">What the file holds</legend>
      <label class="inline-flex items-center gap-2"
        ><input type="radio" bind:group={kind} value="events" /> events</label
      >
      <label class="inline-flex items-center gap-2"
        ><input type="radio" bind:group={kind} value="profiles" /> profiles</label
      >
    </fieldset>
    <label class="flex items-center gap-2 text-[0.9rem]">
      times are
      <select bind:value={timeFormat}>
        <option value="">found out from the file</option>
        <option value="iso8601">ISO 8601</option>
        <option value="epoch_s">seconds since 1970</option>
        <option value="epoch_ms">milliseconds since 1970</option>
      </select>
    </label>
    <button class="act" disabled={!files?.[0] || sent !== null}>
      {sent === null ? "Import" : `Sending, ${Math.round(sent * 100)}%`}
    </button>
  </div>
  <details>
    <summary class="cursor-pointer text-[0.9rem]">The columns have other names</summary>
    <label class="field mt-2 max-w-2xl">
      <span
        >A mapping as JSON, for example <code
          >{'{"columns": {"time": "happened_at", "subject": "user"}, "constants": {"type": "ride_ended"}}'}</code
        ></span
      >
      <textarea rows="4" class="font-mono text-[0.85rem]" bind:value={mapping}></textarea>
    </label>
  </details>
  {#if problem}<Waiting {problem} />{/if}
</form>
