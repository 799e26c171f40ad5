<script lang="ts">
  import type { Schemas } from "../lib/api/client";
  import { number } from "../lib/format";
  import { stepSaid, type Step } from "./exports";
  import { Resource } from "../lib/resource.svelte";
  import Pager from "../ui/Pager.svelte";
  import PeopleTable from "../people/PeopleTable.svelte";
  import Waiting from "../ui/Waiting.svelte";

  /** The people of one step. */
  let {
    step,
    channel = null,
    load,
    close,
  }: {
    step: Step;
    channel?: string | null;
    load: (step: Step, signal: AbortSignal) => Promise<Schemas["StepPeople"]>;
    close: () => void;
  } = $props();

  const PER_PAGE = 50;
  const people = new Resource((signal) => load(step, signal));
</script>

<section class="mt-4 border-t border-(--rule-strong) pt-3" aria-label="People: {stepSaid(step, channel)}">
  <div class="flex items-baseline gap-4">
    <h2>{stepSaid(step, channel)}</h2>
    {#if people.data}<span data-testid="step-total">{number(people.data.total)} people</span>{/if}
    <button class="quiet ml-auto" onclick={close}>Close</button>
  </div>
  {#if people.data && !people.problem}
    <PeopleTable rows={people.data.rows} />
    <Pager total={people.data.total} perPage={PER_PAGE} name="people" />
  {:else}
    <Waiting problem={people.problem} retry={() => people.reload()} />
  {/if}
</section>
