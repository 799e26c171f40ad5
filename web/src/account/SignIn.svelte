<script lang="ts">
  import { base } from "../lib/base";
  import { answer, api } from "../lib/api/client";
  import Waiting from "../ui/Waiting.svelte";
  import { session } from "../lib/session.svelte";
  import { passkeysPossible, showPasskey } from "./passkey";

  /** Signing in, or setting a password by a one-time link. */
  let { link = null }: { link?: string | null } = $props();

  let email = $state("");
  let password = $state("");
  let code = $state("");
  /** Whether a code is asked for beside the password; known once the password has been right. */
  let asked = $state(false);
  let working = $state(false);
  const first = $derived(link !== null && session.known?.set_up === false);

  async function enter(way: Parameters<typeof session.take>[0]) {
    working = true;
    const inside = await session.take(way);
    working = false;
    asked ||= session.problem?.errors.some(({ place }) => place === "code") ?? false;
    if (inside && link) location.assign(`${base}/`);
  }

  async function byPasskey() {
    const { options } = await answer(api.POST("/session/passkey/begin"));
    return answer(api.POST("/session/passkey", { body: { credential: await showPasskey(options) } }));
  }

  function submit(event: SubmitEvent) {
    event.preventDefault();
    const more = asked ? { code } : {};
    void enter(() =>
      link
        ? answer(api.POST("/session/link", { body: { key: link, email, password, ...more } }))
        : answer(api.POST("/session", { body: { email, password, ...more } })),
    );
  }
</script>

<main id="main" class="mx-auto w-full max-w-md px-6 pt-24">
  <h1 class="says text-[2rem]! font-semibold">Estrel</h1>
  <p class="says mt-2" data-testid="sign-in">
    {#if first}Create the first administrator account.
    {:else if link}Choose a password. This link works once.
    {:else}Sign in{/if}
  </p>
  <form class="mt-6 flex flex-col gap-4" onsubmit={submit}>
    {#if link && !first}<input type="text" autocomplete="username" class="hidden" readonly />{/if}
    {#if !link || first}
      <label class="field"
        >Email address <input type="email" required autocomplete="username" bind:value={email} /></label
      >
    {/if}
    <label class="field"
      >Password{link ? ", at least 12 characters" : ""}
      <input
        type="password"
        required
        minlength={link ? 12 : undefined}
        autocomplete={link ? "new-password" : "current-password"}
        bind:value={password}
      /></label
    >
    {#if asked}
      <label class="field"
        >Authentication code or recovery code
        <!-- svelte-ignore a11y_autofocus -->
        <input required autofocus autocomplete="one-time-code" bind:value={code} /></label
      >
    {/if}
    <div><button class="act" disabled={working}>{link ? "Set password and sign in" : "Sign in"}</button></div>
  </form>
  {#if session.known?.passkeys && !link && passkeysPossible()}
    <p class="mt-4">
      or <button class="quiet" disabled={working} onclick={() => enter(byPasskey)}
        >sign in with a passkey</button
      >
    </p>
  {/if}
  {#if session.known?.provider && !link}
    <p class="mt-4">
      or <a href="/sign-in/begin" target="_self">sign in with {session.known.provider}</a>
    </p>
  {/if}
  {#if session.problem}<div class="mt-4"><Waiting problem={session.problem} /></div>{/if}
  {#if session.known?.demo && !link}
    <p class="mt-8 border-t border-(--rule) pt-4">
      This is a local demo.
      <button
        class="quiet ml-2"
        disabled={working}
        onclick={() => enter(() => answer(api.POST("/session/demo")))}>Open demo</button
      >
    </p>
  {:else if session.known && !session.known.set_up && !link}
    <p class="soft mt-8 border-t border-(--rule) pt-4">
      No accounts yet. Use the administrator link printed at start-up, or run <code>bin/estrel setup</code> for
      a new one.
    </p>
  {/if}
</main>
