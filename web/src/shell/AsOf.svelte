<script lang="ts">
  import DateField from "../ui/DateField.svelte";
  import Panel from "../ui/Panel.svelte";
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

<Panel
  bind:open
  button="cursor-pointer whitespace-nowrap underline decoration-(--ink-when) decoration-2 underline-offset-4"
  panel="w-72"
  title="As-of date: figures are for the end of this day"
>
  {#snippet trigger()}
    as of {day(workspace.asOf)}{#if workspace.receivedBy}, using data received by {day(
        workspace.receivedBy,
      )}{/if}
  {/snippet}
  <label class="field">
    As of the end of
    <DateField
      label="As of the end of"
      value={workspace.asOf}
      least="1970-01-01"
      most={info.today}
      change={choose}
    />
  </label>
  <div class="mt-3 flex flex-wrap gap-2">
    <button class="quiet" onclick={() => choose(latest)}>Newest data</button>
    <button class="quiet" onclick={() => choose(addDays(workspace.asOf, -30))}>30 days earlier</button>
    <button class="quiet" onclick={() => choose(addDays(workspace.asOf, -365))}>1 year earlier</button>
  </div>
  <label class="field mt-3">
    Use only data received by
    <DateField
      label="Using data received by"
      optional
      value={workspace.receivedBy}
      most={info.today}
      change={(date) => address.go(address.with({ received_by: date || null, page: null }))}
    />
  </label>
  {#if workspace.receivedBy}
    <button class="quiet mt-2" onclick={() => address.go(address.with({ received_by: null, page: null }))}
      >Use all data</button
    >
  {/if}
  {#if info.data}
    <p class="soft small mt-3">
      Events from {day(info.data.oldest_day)} to {day(info.data.newest_day)}. Time zone: {info.time_zone}.
    </p>
  {/if}
</Panel>
