<script lang="ts">
  import { answer, api } from "../lib/api/client";
  import Waiting from "../ui/Waiting.svelte";
  import { moment } from "../lib/format";
  import { asksBeforeLeaving } from "../lib/leaving";
  import { Kept } from "../lib/kept.svelte";
  import { session } from "../lib/session.svelte";
  import { said } from "../lib/toasts.svelte";
  import { workspace } from "../lib/workspace.svelte";
  import RemoveButton from "../ui/RemoveButton.svelte";
  import Passkeys from "./Passkeys.svelte";
  import SecondFactor from "./SecondFactor.svelte";
  import Sessions from "./Sessions.svelte";

  /** One's own account: who it is, the password, and tokens for programs. */
  const SCOPES: Record<string, string> = {
    read: "read, with personal data hidden",
    write: "read and write audiences and exports",
    administer: "everything",
  };
  const own = new Kept((signal) => answer(api.GET("/account", { signal })));
  let words = $state({ before: "", password: "", remove_passkeys: false });
  let token = $state({ name: "", scope: "read" });
  let shown = $state<string | null>(null);
  $effect(() => asksBeforeLeaving(() => words.before + words.password !== ""));
  const zone = $derived(workspace.info?.time_zone ?? "UTC");

  async function change(event: SubmitEvent) {
    event.preventDefault();
    await own.attempt(async () => {
      session.known = await answer(api.PUT("/account/password", { body: { ...words } }));
      words = { before: "", password: "", remove_passkeys: false };
      said("Password changed. You have been signed out on all other devices.");
    });
  }

  async function issue(event: SubmitEvent) {
    event.preventDefault();
    await own.attempt(async () => {
      const body = { name: token.name, scopes: [token.scope] };
      shown = (await answer(api.POST("/account/tokens", { body }))).token;
      token.name = "";
    });
  }
</script>

<p class="says mt-4">
  Signed in as {session.account?.email} ({session.account?.role}).
</p>
<button class="quiet mt-2" onclick={() => session.leave()}>Sign out</button>
{#if own.refused}<div class="mt-3"><Waiting problem={own.refused} /></div>{/if}
<h2 class="mt-8">Password</h2>
<form class="mt-1 flex flex-wrap items-end gap-3" onsubmit={change}>
  <input type="text" autocomplete="username" class="hidden" value={session.account?.email} readonly />
  {#if own.data?.password !== false}
    <label class="field"
      >Current password <input
        type="password"
        autocomplete="current-password"
        bind:value={words.before}
      /></label
    >
  {/if}
  <label class="field"
    >New password, at least 12 characters <input
      type="password"
      required
      minlength="12"
      autocomplete="new-password"
      bind:value={words.password}
    /></label
  >
  {#if own.data?.passkeys.length}
    <label class="flex items-center gap-2"
      ><input type="checkbox" bind:checked={words.remove_passkeys} /> Remove all passkeys of this account</label
    >
  {/if}
  <button class="quiet">{own.data?.password === false ? "Set password" : "Change password"}</button>
</form>
{#if own.data?.password === false}
  <p class="soft mt-2 max-w-2xl">
    Your account has no password. Passkeys, a password and two-factor authentication can be added within 10
    minutes of signing in.
  </p>
{/if}
{#if own.data}
  <SecondFactor {own} codesLeft={own.data.codes_left} hasPassword={own.data.password} />
  <Passkeys {own} passkeys={own.data.passkeys} hasPassword={own.data.password} {zone} />
  <Sessions {own} sessions={own.data.sessions} {zone} />
{/if}
<h2 class="mt-8">API tokens</h2>
<p class="soft max-w-2xl">
  Send the token as <code>Authorization: Bearer …</code>. It can do what its scope and your role allow.
</p>
{#if shown}
  <p class="mt-2 border-l-4 border-(--accent) pl-3" role="status" data-testid="token">
    Copy this token now; it is not shown again: <code class="font-semibold break-all">{shown}</code>
    <button class="quiet ml-2" onclick={() => (shown = null)}>Done</button>
  </p>
{/if}
{#if own.data}
  {#if own.data.tokens.length}
    <table class="figures mt-2 w-auto!" data-testid="tokens">
      <thead>
        <tr
          ><th class="pr-8!">Token</th><th class="pr-8!">Scope</th><th class="pr-8!">Created</th><th
            class="pr-8!">Last used</th
          ><th><span class="sr-only">Actions</span></th></tr
        >
      </thead>
      <tbody>
        {#each own.data.tokens as row (row.id)}
          <tr>
            <td class="pr-8!">{row.name} <code class="soft small">{row.hint}</code></td>
            <td class="pr-8!">{row.scopes.join(", ")}</td>
            <td class="soft small pr-8! leading-6">{moment(row.created_at, zone)}</td>
            <td class="soft small pr-8! leading-6">{row.used_at ? moment(row.used_at, zone) : "never"}</td>
            <td>
              {#if row.revoked}<span class="soft">revoked</span>{:else}
                <RemoveButton
                  verb="Revoke"
                  name={row.name}
                  remove={() =>
                    own.attempt(() =>
                      answer(api.DELETE("/account/tokens/{id}", { params: { path: { id: row.id } } })),
                    )}
                />
              {/if}
            </td>
          </tr>
        {/each}
      </tbody>
    </table>
  {/if}
  <form class="mt-3 flex flex-wrap items-end gap-3" onsubmit={issue}>
    <label class="field">New token for <input required maxlength="255" bind:value={token.name} /></label>
    <label class="field"
      >with scope <select bind:value={token.scope}
        >{#each own.data.scopes as scope (scope)}<option value={scope}>{SCOPES[scope] ?? scope}</option
          >{/each}</select
      ></label
    >
    <button class="quiet">Create token</button>
  </form>
{:else}<Waiting problem={own.problem} retry={() => own.reload()} />{/if}
