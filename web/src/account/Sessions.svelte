<script lang="ts">
  import { answer, api, type Schemas } from "../lib/api/client";
  import { moment } from "../lib/format";
  import Wide from "../ui/Wide.svelte";
  import type { Kept } from "../lib/kept.svelte";

  /** Where one is signed in. */
  let { own, sessions, zone }: { own: Kept<object>; sessions: Schemas["SignedIn"][]; zone: string } =
    $props();

  const BROWSERS = [
    ["Edg/", "Edge"],
    ["OPR/", "Opera"],
    ["Firefox/", "Firefox"],
    ["Chrome/", "Chrome"],
    ["Safari/", "Safari"],
  ] as const;
  const SYSTEMS = ["Windows", "Android", "iPhone", "iPad", "Mac OS", "Linux"];

  /** "Firefox, Linux": what a browser says of itself, briefly. */
  function browser(agent: string): string {
    if (!agent) return "not known";
    const name = BROWSERS.find(([sign]) => agent.includes(sign))?.[1] ?? "another browser";
    const system = SYSTEMS.find((sign) => agent.includes(sign));
    return system ? `${name}, ${system}` : name;
  }

  const end = (id: number) =>
    own.attempt(() => answer(api.DELETE("/account/sessions/{id}", { params: { path: { id } } })));
</script>

<h2 class="mt-8">Where you are signed in</h2>
{#if sessions.length > 1}
  <button class="quiet mt-2" onclick={() => own.attempt(() => answer(api.DELETE("/account/sessions")))}
    >Sign out all other devices</button
  >
{/if}
<Wide label="Where you are signed in">
  <table class="figures mt-2 w-auto!" data-testid="sessions">
    <thead>
      <tr
        ><th class="pr-8!">Browser</th><th class="pr-8!">IP address</th><th class="pr-8!">Since</th><th
          class="pr-8!">Last used</th
        ><th><span class="sr-only">Actions</span></th></tr
      >
    </thead>
    <tbody>
      {#each sessions as row (row.id)}
        <tr>
          <td class="pr-8! whitespace-nowrap">{browser(row.agent)}</td>
          <td class="soft small pr-8! leading-6">{row.from_address || "–"}</td>
          <td class="soft small pr-8! leading-6 whitespace-nowrap">{moment(row.created_at, zone)}</td>
          <td class="soft small pr-8! leading-6 whitespace-nowrap">{moment(row.used_at, zone)}</td>
          <td>
            {#if row.here}<span class="soft whitespace-nowrap">this device</span>{:else}
              <button class="quiet" aria-label="Sign out {browser(row.agent)}" onclick={() => end(row.id)}
                >Sign out</button
              >
            {/if}
          </td>
        </tr>
      {/each}
    </tbody>
  </table>
</Wide>
