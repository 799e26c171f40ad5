<script lang="ts">
  import { apiAddress } from "../lib/base";
  import { address } from "../lib/address.svelte";
  import { answer, api } from "../lib/api/client";
  import Pager from "../ui/Pager.svelte";
  import Waiting from "../ui/Waiting.svelte";
  import { moment } from "../lib/format";
  import { Resource } from "../lib/resource.svelte";
  import { workspace } from "../lib/workspace.svelte";
  import Wide from "../ui/Wide.svelte";

  /** What was done, newest first. */
  const PER_PAGE = 200;
  const page = $derived(Number(address.get("page") ?? 1));
  const log = new Resource((signal) => answer(api.GET("/log", { params: { query: { page } }, signal })));
  const zone = $derived(workspace.info?.time_zone ?? "UTC");
</script>

<p class="soft mt-4 max-w-2xl">
  Exports, erasures, sign-ins and permission changes. Entries cannot be edited or deleted.
  <a class="ml-2 whitespace-nowrap" href={apiAddress(`/log.csv`)} download>Download CSV</a>
</p>
{#if log.data && !log.problem}
  <Wide label="The log">
    <table class="figures" data-testid="log">
      <thead><tr><th>When</th><th>User</th><th>Action</th><th>Details</th><th>IP address</th></tr></thead>
      <tbody>
        {#each log.data.entries as entry, index (index)}
          <tr>
            <td class="soft small leading-6 whitespace-nowrap">{moment(entry.at, zone)}</td><td
              >{entry.who}</td
            ><td class="whitespace-nowrap">{entry.action}</td><td class="soft small leading-6"
              >{entry.about}</td
            ><td class="soft small leading-6">{entry.from_address}</td>
          </tr>
        {/each}
      </tbody>
    </table>
  </Wide>
  <Pager total={log.data.total} perPage={PER_PAGE} name="entries" />
{:else}<Waiting problem={log.problem} retry={() => log.reload()} />{/if}
