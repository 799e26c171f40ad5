<script lang="ts">
  import { answer, api, type Schemas } from "../lib/api/client";
  import { Form } from "../lib/form.svelte";
  import Waiting from "../ui/Waiting.svelte";
  import { Kept } from "../lib/kept.svelte";
  import RemoveButton from "../ui/RemoveButton.svelte";

  /** Who uses Estrel, and what each may do. */
  type Row = Schemas["AccountRow"];
  const MEANING: Record<Row["role"], string> = {
    none: "no access to this workspace",
    viewer: "can view everything except personal data",
    analyst: "can create and export audiences",
    administrator: "can also manage sources, keys, destinations, erasure and users",
  };
  const accounts = new Kept((signal) => answer(api.GET("/accounts", { signal })));
  const form = new Form<{ email: string; role: Row["role"] }>("account", { email: "", role: "analyst" });
  let link = $state<{ email: string; address: string } | null>(null);
  /** In the first workspace accounts themselves are looked after, in others only what they may do there. */
  const first = $derived(accounts.data?.first ?? false);

  function show(row: Schemas["AccountLinked"]) {
    link = row.link ? { email: row.email, address: row.link } : null;
  }

  const make = (event: SubmitEvent) => {
    event.preventDefault();
    void accounts.attempt(async () => {
      show(await answer(api.POST("/accounts", { body: form.fields })));
      form.end();
    });
  };

  function change(row: Row, body: { role?: string; disabled?: boolean }) {
    return accounts.attempt(() =>
      answer(api.PUT("/accounts/{id}", { params: { path: { id: row.id } }, body })),
    );
  }

  const reset = (row: Row) =>
    accounts.attempt(() =>
      answer(api.DELETE("/accounts/{id}/second-factor", { params: { path: { id: row.id } } })),
    );

  const again = (row: Row) =>
    accounts.attempt(async () =>
      show(await answer(api.POST("/accounts/{id}/link", { params: { path: { id: row.id } } }))),
    );
</script>

{#if accounts.refused}<div class="mt-3"><Waiting problem={accounts.refused} /></div>{/if}
{#if link}
  <p class="mt-4 border-l-4 border-(--accent) pl-3" role="status" data-testid="link">
    Send this link to {link.email}. It sets the password of a new account and is not shown again.
    {#if !first}People who already have an account sign in with it.{/if}
    <code class="font-semibold break-all">{link.address}</code>
    <button class="quiet ml-2" onclick={() => (link = null)}>Done</button>
  </p>
{/if}
{#if accounts.data}
  <div class="mt-4 overflow-x-auto">
    <table class="figures w-auto!" data-testid="accounts">
      <thead>
        <tr
          ><th class="pr-8!">Account</th><th class="pr-8!">Role</th><th
            ><span class="sr-only">Actions</span></th
          ></tr
        >
      </thead>
      <tbody>
        {#each accounts.data.accounts as row (row.id)}
          <tr>
            <td class="pr-8!"
              >{row.email}{#if row.disabled}<span class="soft small ml-2">deactivated</span
                >{:else if row.set_up === false}<span class="soft small ml-2">no password yet</span
                >{:else if row.second_factor === "on"}<span class="soft small ml-2">two-factor on</span
                >{/if}</td
            >
            <td class="pr-8!">
              <select
                aria-label="Role of {row.email}"
                value={row.role}
                onchange={(event) => change(row, { role: event.currentTarget.value })}
              >
                {#each [...accounts.data.roles, "none"] as role (role)}<option value={role}>{role}</option
                  >{/each}
              </select>
              <span class="soft small ml-2">{MEANING[row.role]}</span>
            </td>
            <td class="whitespace-nowrap">
              {#if first}
                <button class="quiet" aria-label="A new link for {row.email}" onclick={() => again(row)}
                  >New password link</button
                >
                {#if row.second_factor === "on"}
                  <RemoveButton
                    verb="Reset two-factor authentication"
                    name="that of {row.email}"
                    remove={() => reset(row)}
                  />
                {/if}
                <button
                  class="quiet"
                  aria-label="{row.disabled ? 'Reactivate' : 'Deactivate'} {row.email}"
                  onclick={() => change(row, { disabled: !row.disabled })}
                  >{row.disabled ? "Reactivate" : "Deactivate"}</button
                >
              {/if}
            </td>
          </tr>
        {/each}
      </tbody>
    </table>
  </div>
  <form class="mt-4 flex flex-wrap items-end gap-3" onsubmit={make}>
    <label class="field"
      >{first ? "New account for" : "Add user"}
      <input type="email" required placeholder="email address" bind:value={form.fields.email} /></label
    >
    <label class="field"
      >as <select bind:value={form.fields.role}
        >{#each accounts.data.roles as role (role)}<option value={role}>{role}</option>{/each}</select
      ></label
    >
    <button class="quiet">{first ? "Create account" : "Add user"}</button>
  </form>
{:else}<Waiting problem={accounts.problem} retry={() => accounts.reload()} />{/if}
