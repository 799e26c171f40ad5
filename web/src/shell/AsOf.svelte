<script lang="ts">
  import { Popover } from "@skeletonlabs/skeleton-svelte";
  import { address } from "../lib/address.svelte";
  import { addDays, day } from "../lib/format";
  import { workspace } from "../lib/workspace.svelte";

  let open = $state(false);
  const info = $derived(workspace.info!);
  const latest = $derived(info.default_as_of ?? info.today);

  function choose(date: string) {
    if (!date) return;
    open = false;
    address.go(address.with({ as_of: date === latest ? null : date, page: null }));
  }
</script>

<Popover {open} onOpenChange={(details) => (open = details.open)}>
  <Popover.Trigger
    class="cursor-pointer whitespace-nowrap underline decoration-(--ink-when) decoration-2 underline-offset-4"
  >
    as of {day(workspace.asOf)}{#if workspace.knownOn}, as known on {day(workspace.knownOn)}{/if}
  </Popover.Trigger>
  <Popover.Positioner class="z-40">
    <Popover.Content class="panel w-72">
      <Popover.Title class="mb-2 font-semibold">The date the question is asked for</Popover.Title>
      <label class="field">
        As of the end of
        <input
          type="date"
          value={workspace.asOf}
          min="1970-01-01"
          max={info.today}
          onchange={(event) => choose(event.currentTarget.value)}
        />
      </label>
      <div class="mt-3 flex flex-wrap gap-2">
        <button class="quiet" onclick={() => choose(latest)}>Newest data</button>
        <button class="quiet" onclick={() => choose(addDays(workspace.asOf, -30))}>30 days earlier</button>
        <button class="quiet" onclick={() => choose(addDays(workspace.asOf, -365))}>A year earlier</button>
      </div>
      <label class="field mt-3">
        As known on (with only what had been received by then)
        <input
          type="date"
          aria-label="As known on"
          value={workspace.knownOn ?? ""}
          max={info.today}
          onchange={(event) =>
            address.go(address.with({ known_on: event.currentTarget.value || null, page: null }))}
        />
      </label>
      {#if workspace.knownOn}
        <button class="quiet mt-2" onclick={() => address.go(address.with({ known_on: null, page: null }))}
          >With all that is known now</button
        >
      {/if}
      {#if info.data}
        <p class="soft small mt-3">
          There are events from {day(info.data.oldest_day)} to {day(info.data.newest_day)}. Days are those of
          {info.time_zone}.
        </p>
      {/if}
    </Popover.Content>
  </Popover.Positioner>
</Popover>
