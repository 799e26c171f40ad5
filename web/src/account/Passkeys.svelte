<script lang="ts">
  import { answer, api, type Schemas } from "../lib/api/client";
  import { moment } from "../lib/format";
  import type { Kept } from "../lib/kept.svelte";
  import { session } from "../lib/session.svelte";
  import { said } from "../lib/toasts.svelte";
  import RemoveButton from "../ui/RemoveButton.svelte";
  import Wide from "../ui/Wide.svelte";
  import { makePasskey, passkeysPossible } from "./passkey";

  /** Keys that one's devices hold, to sign in by instead of the password. */
  let {
    own,
    passkeys,
    hasPassword,
    zone,
  }: {
    own: Kept<object>;
    passkeys: Schemas["Passkey"][];
    /** Whether adding one is confirmed with the password. */
    hasPassword: boolean;
    zone: string;
  } = $props();

  let password = $state("");
  let name = $state("");

  async function add(event: SubmitEvent) {
    event.preventDefault();
    await own.attempt(async () => {
      const { options } = await answer(api.POST("/account/passkeys/begin", { body: { password } }));
      password = "";
      const credential = await makePasskey(options);
      await answer(api.POST("/account/passkeys", { body: { credential, name } }));
      said(`Passkey “${name}” added`);
      name = "";
    });
  }
</script>

<h2 class="mt-8">Passkeys</h2>
<p class="soft max-w-2xl">
  A passkey on your phone, computer or password manager signs you in without a password or code.
</p>
{#if passkeys.length}
  <Wide label="Passkeys">
    <table class="figures mt-2 w-auto!" data-testid="passkeys">
      <thead>
        <tr
          ><th class="pr-8!">Passkey</th><th class="pr-8!">Added</th><th class="pr-8!">Last used</th><th
            ><span class="sr-only">Actions</span></th
          ></tr
        >
      </thead>
      <tbody>
        {#each passkeys as row (row.id)}
          <tr>
            <td class="pr-8!">{row.name}</td>
            <td class="soft small pr-8! leading-6 whitespace-nowrap">{moment(row.created_at, zone)}</td>
            <td class="soft small pr-8! leading-6 whitespace-nowrap"
              >{row.used_at ? moment(row.used_at, zone) : "never"}</td
            >
            <td
              ><RemoveButton
                verb="Remove"
                name={row.name}
                remove={() =>
                  own.attempt(() =>
                    answer(api.DELETE("/account/passkeys/{id}", { params: { path: { id: row.id } } })),
                  )}
              /></td
            >
          </tr>
        {/each}
      </tbody>
    </table>
  </Wide>
{/if}
{#if !session.known?.passkeys}
  <p class="soft mt-2 max-w-2xl">
    Passkeys need a host name. Ask your administrator to set <code>ESTREL_PUBLIC_URL</code>.
  </p>
{:else if passkeysPossible()}
  <form class="mt-2 flex flex-wrap items-end gap-3" onsubmit={add}>
    <input type="text" autocomplete="username" class="hidden" value={session.account?.email} readonly />
    {#if hasPassword}
      <label class="field"
        >your password <input type="password" autocomplete="current-password" bind:value={password} /></label
      >
    {/if}
    <label class="field"
      >Name <input
        required
        maxlength="255"
        placeholder="my phone"
        autocomplete="off"
        bind:value={name}
      /></label
    >
    <button class="quiet">Add passkey</button>
  </form>
{:else}
  <p class="soft mt-2">This browser does not support passkeys.</p>
{/if}
