<script lang="ts">
  import { answer, api, type Schemas } from "../lib/api/client";
  import { Form } from "../lib/form.svelte";
  import RemoveButton from "../ui/RemoveButton.svelte";
  import Waiting from "../ui/Waiting.svelte";
  import { moment, number, plural } from "../lib/format";
  import { Kept } from "../lib/kept.svelte";
  import { said } from "../lib/toasts.svelte";
  import { workspace } from "../lib/workspace.svelte";
  import { session } from "../lib/session.svelte";
  import Reserved from "../ui/Reserved.svelte";

  /** Lists of addresses that are not contacted. */
  const KINDS = { email: "email addresses", phone: "phone numbers", customer: "customer IDs" } as const;
  const lists = new Kept((signal) => answer(api.GET("/contact-lists", { signal })));
  const form = new Form<{ name: string; kind: keyof typeof KINDS }>("contact-list", {
    name: "",
    kind: "email",
  });

  async function add(row: Schemas["ContactList"], files: FileList | null) {
    const file = files?.[0];
    if (!file) return;
    await lists.attempt(async () => {
      const values = await file.text();
      const found = await answer(
        api.POST("/contact-lists/{id}/values", {
          params: { path: { id: row.id } },
          body: values as never,
          bodySerializer: (text) => text as unknown as string,
          headers: { "content-type": "text/plain" },
        }),
      );
      said(`${plural(found.read, "value")} read, ${number(found.added)} of them new`);
    });
  }

  function remove({ id }: Schemas["ContactList"]): Promise<void> {
    return lists.attempt(() => answer(api.DELETE("/contact-lists/{id}", { params: { path: { id } } })));
  }
</script>

{#if lists.refused}<Waiting problem={lists.refused} />{/if}
<h2 class="mt-6">Suppression lists</h2>
<p class="soft max-w-2xl">
  Email addresses, phone numbers or customer IDs, one per line, as plain text or SHA-256 hashes. Only hashes
  are stored.
</p>
{#if lists.data}
  {#if lists.data.lists.length}
    <div class="mt-2 overflow-x-auto">
      <table class="figures w-auto!" data-testid="lists">
        <thead>
          <tr
            ><th>List</th><th>Type</th><th class="number">Entries</th><th class="pl-6!">Changed</th><th
              ><span class="sr-only">Actions</span></th
            ></tr
          >
        </thead>
        <tbody>
          {#each lists.data.lists as row (row.id)}
            <tr>
              <td class="pr-8!">{row.name}</td>
              <td class="pr-8!">{KINDS[row.kind]}</td>
              <td class="number">{number(row.size)}</td>
              <td class="soft small pl-6! leading-6">{moment(row.updated_at, workspace.info!.time_zone)}</td>
              <td>
                {#if session.may("analyst")}<label class="quiet"
                    >Add from a file …<input
                      type="file"
                      class="sr-only"
                      aria-label="Values to add to {row.name}"
                      onchange={(event) => add(row, event.currentTarget.files)}
                    /></label
                  >
                  <RemoveButton name={row.name} remove={() => remove(row)} />{/if}
              </td>
            </tr>
          {/each}
        </tbody>
      </table>
    </div>
  {/if}
  <Reserved role="analyst" what="create and fill lists"
    ><form
      class="mt-3 flex flex-wrap items-end gap-3"
      onsubmit={(event) => {
        event.preventDefault();
        void lists.attempt(async () => {
          await answer(api.POST("/contact-lists", { body: form.fields }));
          form.end();
        });
      }}
    >
      <label class="field">New list <input required maxlength="255" bind:value={form.fields.name} /></label>
      <label class="field"
        >of <select bind:value={form.fields.kind}
          >{#each Object.entries(KINDS) as [kind, text] (kind)}<option value={kind}>{text}</option
            >{/each}</select
        ></label
      >
      <button class="quiet">Create list</button>
    </form></Reserved
  >
{:else}<Waiting problem={lists.problem} retry={() => lists.reload()} />{/if}
