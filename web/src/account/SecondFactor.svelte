<script lang="ts">
  import { answer, api, type Schemas } from "../lib/api/client";
  import type { Kept } from "../lib/kept.svelte";
  import { session } from "../lib/session.svelte";
  import { said } from "../lib/toasts.svelte";

  /** A code from an application on one's phone, asked for beside the password. */
  let {
    own,
    codesLeft,
    hasPassword,
  }: {
    own: Kept<{ account: Schemas["Account"] }>;
    /** Of those that were kept for when the phone is gone. */
    codesLeft: number;
    /** Whether changes are confirmed with the password. */
    hasPassword: boolean;
  } = $props();

  let password = $state("");
  let code = $state("");
  let proposed = $state<{ secret: string; picture: string } | null>(null);
  let codes = $state<string[] | null>(null);
  const on = $derived(session.account?.second_factor === "on");

  /** Who is signed in, with what has changed. */
  async function refresh() {
    session.known = await answer(api.GET("/session"));
  }

  async function propose(event: SubmitEvent) {
    event.preventDefault();
    await own.attempt(async () => {
      proposed = await answer(api.POST("/account/second-factor", { body: { password } }));
      password = "";
    });
  }

  async function confirm(event: SubmitEvent) {
    event.preventDefault();
    await own.attempt(async () => {
      codes = (await answer(api.PUT("/account/second-factor", { body: { code } }))).codes;
      code = "";
      proposed = null;
    });
  }

  async function keep() {
    codes = null;
    await refresh();
  }

  async function remove(event: SubmitEvent) {
    event.preventDefault();
    await own.attempt(async () => {
      await answer(api.DELETE("/account/second-factor", { body: { password } }));
      password = "";
      await refresh();
      said("Two-factor authentication turned off");
    });
  }
</script>

{#snippet askedPassword(verb: string, submit: (event: SubmitEvent) => Promise<void>)}
  <form class="mt-1 flex flex-wrap items-end gap-3" onsubmit={submit}>
    <input type="text" autocomplete="username" class="hidden" value={session.account?.email} readonly />
    {#if hasPassword}
      <label class="field"
        >your password <input type="password" autocomplete="current-password" bind:value={password} /></label
      >
    {/if}
    <button class="quiet">{verb}</button>
  </form>
{/snippet}

<h2 class="mt-8">Two-factor authentication</h2>
{#if codes}
  <div class="mt-2 border-l-4 border-(--accent) pl-3" role="status" data-testid="codes">
    <p>
      Two-factor authentication is on. Save these ten recovery codes in a safe place: each works once, and
      they are not shown again.
    </p>
    <ul class="mt-2 grid max-w-md grid-cols-2 gap-x-6 font-semibold">
      {#each codes as one (one)}<li><code>{one}</code></li>{/each}
    </ul>
    <button class="quiet mt-2" onclick={keep}>Done</button>
  </div>
{:else if on}
  <p class="soft max-w-2xl">
    On. You need a code from your authenticator app to sign in. {codesLeft} recovery codes left.
  </p>
  {@render askedPassword("Turn off", remove)}
{:else if proposed}
  <div class="mt-2 flex flex-wrap items-start gap-6">
    <img
      class="h-44 w-44 border border-(--rule)"
      alt="QR code for your authenticator app"
      src="data:image/svg+xml,{encodeURIComponent(proposed.picture)}"
    />
    <form class="flex max-w-md flex-col gap-3" onsubmit={confirm}>
      <p>
        Scan this with your authenticator app, or enter the key <code
          class="font-semibold"
          data-testid="secret">{proposed.secret}</code
        >
      </p>
      <label class="field"
        >Current code <input
          required
          inputmode="numeric"
          autocomplete="one-time-code"
          pattern="[0-9 ]{'{6,7}'}"
          bind:value={code}
        /></label
      >
      <div class="flex gap-3">
        <button class="act">Turn on</button>
        <button type="button" class="quiet" onclick={() => (proposed = null)}>Not now</button>
      </div>
    </form>
  </div>
{:else}
  <p class="soft max-w-2xl">
    A code from your phone in addition to your password, so that a stolen password is not enough to sign in.
  </p>
  {@render askedPassword("Set up", propose)}
{/if}
