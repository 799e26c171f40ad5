<script lang="ts">
  import { address } from "../lib/address.svelte";
  import Place from "../shell/Place.svelte";
  import { ANALYSES } from "./analyses";
  import { LOAD } from "./load";
  import { PAGES } from "./pages/pages";
  import SavedBar from "./SavedBar.svelte";

  /** The analyses, the questions they answer, and the pages on which saved ones stand. */
  let { name, id = "" }: { name: string; id?: string } = $props();

  /** What questions have in common goes along when another is asked. */
  const COMMON = ["audience", "event", "also", "of", "from", "to", "step", "range", "by", "by_too"];
  /** Some tell events or visits apart in ways that others know nothing of. */
  const OWN = { trends: /^event:/, visits: /^(?:new|did|first:.*)$/ };
  const carried = (key: string, name: string) => {
    const foreign = Object.entries(OWN).some(
      ([owner, form]) => owner !== key && form.test(address.get("by") ?? ""),
    );
    return name === "by" && foreign ? null : address.get(name);
  };
  const to = (key: string) =>
    address.to(`/analyses/${key}`, Object.fromEntries(COMMON.map((name) => [name, carried(key, name)])));
  const load = $derived(LOAD[name]);
</script>

<div class="flex flex-wrap items-baseline gap-x-6 gap-y-1">
  <h1>Analyses</h1>
  {#if name in LOAD}{#key name}<SavedBar analysis={name} />{/key}{/if}
  <nav class="flex basis-full flex-wrap gap-x-3 gap-y-1" aria-label="Analyses">
    {#each ANALYSES as { key, title } (key)}
      <a
        href={to(key)}
        aria-current={name === key ? "page" : undefined}
        class="no-underline aria-[current=page]:font-semibold aria-[current=page]:underline">{title}</a
      >
    {/each}
    <a
      href={address.to(PAGES)}
      aria-current={name === "pages" ? "page" : undefined}
      class="border-l border-(--rule-strong) pl-3 no-underline aria-[current=page]:font-semibold aria-[current=page]:underline"
      >Reports</a
    >
  </nav>
</div>
{#if load}{#key name}<Place {load} given={{}} />{/key}{:else if name === "pages"}<Place
    load={() => import("./pages/Pages.svelte")}
    given={{ id }}
  />{:else}<Place load={() => import("./AllAnalyses.svelte")} given={{ missing: name, to }} />{/if}
