<script lang="ts">
  import { address } from "../lib/address.svelte";
  import Parts from "../ui/Parts.svelte";
  import { day, number } from "../lib/format";
  import { workspace } from "../lib/workspace.svelte";
  import LiveEvents from "./LiveEvents.svelte";
  import Catalogue from "./Catalogue.svelte";
  import Files from "./Files.svelte";
  import Groups from "./Groups.svelte";
  import Health from "./Health.svelte";
  import Notes from "./Notes.svelte";
  import Settings from "./Settings.svelte";
  import Sources from "./Sources.svelte";

  /** What comes in: files, live sources, their events, what is known of it, and the settings it is read by. */
  let { part }: { part: string } = $props();

  const PARTS = [
    ["", "Imports"],
    ["sources", "Sources"],
    ["live", "Live events"],
    ["catalogue", "Catalogue"],
    ["notes", "Notes"],
    ["groups", "Custom groups"],
    ["health", "Health"],
    ["settings", "Settings"],
  ] as const;
</script>

<Parts name="Data" path="/data" parts={PARTS} {part} />
{#if workspace.info?.data && part === ""}
  {@const data = workspace.info.data}
  <p class="says mt-2 max-w-none">
    {number(data.profiles)} people and {number(data.events)} events, from {day(data.oldest_day)} to {day(
      data.newest_day,
    )}.
  </p>
{/if}

{#if part === ""}
  <Files />
{:else if part === "sources"}
  <Sources />
{:else if part === "notes"}
  <Notes />
{:else if part === "groups"}
  <Groups />
{:else if part === "health"}
  <Health />
{:else if part === "settings"}
  <Settings />
{:else if part === "live"}
  <LiveEvents />
{:else if part === "catalogue" && workspace.info?.ready}
  <Catalogue />
{:else if part === "catalogue"}
  <p class="says mt-6 max-w-none">No events have been received yet.</p>
{:else}
  <p class="mt-6">Page not found. Go to <a href={address.to("/data")}>Imports</a>.</p>
{/if}
