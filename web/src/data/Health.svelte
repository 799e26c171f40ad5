<script lang="ts">
  import { answer, api } from "../lib/api/client";
  import Waiting from "../ui/Waiting.svelte";
  import { list, moment, number, plural } from "../lib/format";
  import { Resource } from "../lib/resource.svelte";
  import { workspace } from "../lib/workspace.svelte";

  /** What works in the background and cannot do its work at the moment, and events that no answer has. */
  const health = new Resource((signal) => {
    void workspace.heartbeat;
    return answer(api.GET("/workspace/faults", { signal }));
  });
  const zone = $derived(workspace.info!.time_zone);

  function finding(faults: number, setAside: number): string {
    if (!faults && !setAside) return "No problems. All received events are included.";
    const parts = [
      faults
        ? `${plural(faults, "background task")} ${faults === 1 ? "is" : "are"} failing and being retried`
        : "",
      setAside ? `${plural(setAside, "event")} could not be read and are excluded from all figures` : "",
    ];
    return `${list(parts.filter(Boolean))}.`;
  }
</script>

{#if health.data}
  {@const { faults, set_aside } = health.data}
  <p class="says mt-4 max-w-none" data-testid="health">{finding(faults.length, set_aside.count)}</p>
  {#if faults.length}
    <h2 class="mt-6">Current problems</h2>
    <div class="overflow-x-auto">
      <table class="figures" data-testid="faults">
        <thead>
          <tr>
            <th>Process</th><th>Task</th><th>What happened</th><th class="number">Since</th>
            <th class="number">Last tried</th><th class="number">Times</th>
          </tr>
        </thead>
        <tbody>
          {#each faults as fault (`${fault.process} ${fault.step}`)}
            <tr>
              <td class="font-semibold">{fault.process}</td>
              <td>{fault.step}</td>
              <td class="max-w-xl leading-6 wrap-anywhere">{fault.message}</td>
              <td class="number whitespace-nowrap">{moment(fault.since, zone)}</td>
              <td class="number whitespace-nowrap">{moment(fault.last_at, zone)}</td>
              <td class="number">{number(fault.count)}</td>
            </tr>
          {/each}
        </tbody>
      </table>
    </div>
    <p class="soft mt-2 max-w-2xl">
      Failed tasks are retried at least once a minute and disappear when they succeed.
    </p>
  {/if}
  {#if set_aside.count}
    <h2 class="mt-6">Unreadable events</h2>
    <p class="soft max-w-2xl">
      These events were accepted by an earlier version but cannot be read. Resend them with new IDs to include
      them.
    </p>
    <div class="overflow-x-auto">
      <table class="figures mt-2" data-testid="set-aside">
        <thead><tr><th>Event type</th><th class="number">Event</th><th class="pl-6!">Reason</th></tr></thead>
        <tbody>
          {#each set_aside.rows as row (row.event_id)}
            <tr>
              <td class="font-semibold">{row.event_type}</td>
              <td class="number">{row.event_id}</td>
              <td class="pl-6! leading-6 wrap-anywhere">{row.reason}</td>
            </tr>
          {/each}
        </tbody>
      </table>
    </div>
    {#if set_aside.count > set_aside.rows.length}
      <p class="soft mt-2">Showing the first {number(set_aside.rows.length)} of {number(set_aside.count)}.</p>
    {/if}
  {/if}
{:else}
  <Waiting problem={health.problem} retry={() => health.reload()} />
{/if}
