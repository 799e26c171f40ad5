<script lang="ts">
  import type { Component } from "svelte";
  import { address } from "../lib/address.svelte";
  import Pages from "./pages/Pages.svelte";
  import Place from "../shell/Place.svelte";
  import { PAGES as NOTEBOOK } from "./pages/pages";
  import SavedBar from "./SavedBar.svelte";
  import SavedList from "./SavedList.svelte";
  import Starting from "./Starting.svelte";

  /** The analyses, the questions they answer, and the pages on which saved ones stand. */
  let { name, id = "" }: { name: string; id?: string } = $props();

  const ANALYSES = [
    { key: "trends", title: "Trends", asks: "How many people do something, how often, and how does it go?" },
    { key: "ranking", title: "Ranking", asks: "What do people do most, and how has that changed?" },
    {
      key: "next-events",
      title: "Next events",
      asks: "What do people do right after, or before, something?",
    },
    { key: "frequency", title: "Frequency", asks: "How often do people do something, and who does it more?" },
    { key: "visits", title: "Visits", asks: "How long and how often do people visit, and at what time?" },
    { key: "experience", title: "Experience", asks: "What do people do as they get to know us?" },
    {
      key: "retention",
      title: "Retention",
      asks: "Of people who did something, how many come back, and when?",
    },
    { key: "cohort-value", title: "Value", asks: "What have people brought in since they began?" },
    { key: "funnel", title: "Funnel", asks: "How many go from step to step, and where do they stop?" },
    { key: "change", title: "Change", asks: "Why did a number move, and who moved it?" },
    { key: "chance", title: "Chance", asks: "How likely is it that people come back, or that they lapse?" },
    { key: "overlap", title: "Overlap", asks: "Who is in several of my audiences, and who in one only?" },
    {
      key: "breakdown",
      title: "Breakdown",
      asks: "What is an audience made of, and how does it differ from another?",
    },
    {
      key: "before-after",
      title: "Before and after",
      asks: "What did people do before and after they did something for the first time, or around a date?",
    },
  ] as const;
  /** What is kept of Lifecycle stands among them. */
  const LIFECYCLE = {
    states: "States and movement",
    activity: "Activity",
    thresholds: "Thresholds",
    revisions: "Revisions",
  };
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
  const PAGES = {
    trends: () => import("./trends/Trends.svelte"),
    ranking: () => import("./ranking/Ranking.svelte"),
    "next-events": () => import("./next-events/NextEvents.svelte"),
    frequency: () => import("./frequency/Frequency.svelte"),
    visits: () => import("./visits/Visits.svelte"),
    experience: () => import("./experience/Experience.svelte"),
    retention: () => import("./retention/Retention.svelte"),
    "cohort-value": () => import("./cohort-value/CohortValue.svelte"),
    funnel: () => import("./funnel/Funnel.svelte"),
    change: () => import("./change/Change.svelte"),
    chance: () => import("./chance/Chance.svelte"),
    overlap: () => import("./overlap/Overlap.svelte"),
    breakdown: () => import("./breakdown/Breakdown.svelte"),
    "before-after": () => import("./before-after/BeforeAfter.svelte"),
  };
  const load = $derived((PAGES as Record<string, () => Promise<{ default: Component }>>)[name]);
</script>

<div class="flex flex-wrap items-baseline gap-x-6 gap-y-1">
  <h1>Analyses</h1>
  {#if name in PAGES}{#key name}<SavedBar analysis={name} />{/key}{/if}
  <nav class="flex basis-full flex-wrap gap-x-3" aria-label="Analyses">
    {#each ANALYSES as { key, title } (key)}
      <a
        href={to(key)}
        aria-current={name === key ? "page" : undefined}
        class="no-underline aria-[current=page]:font-semibold aria-[current=page]:underline">{title}</a
      >
    {/each}
    <a
      href={address.to(NOTEBOOK)}
      aria-current={name === "pages" ? "page" : undefined}
      class="border-l border-(--rule-strong) pl-3 no-underline aria-[current=page]:font-semibold aria-[current=page]:underline"
      >Pages</a
    >
  </nav>
</div>
{#if load}{#key name}<Place {load} given={{}} />{/key}{:else if name === "pages"}<Pages {id} />{:else}
  {#if name}<p class="mt-4" role="status">
      There is no analysis called “{name}”. These are the ones there are:
    </p>{/if}
  <div class="grid grid-cols-[minmax(0,1fr)] gap-x-12 gap-y-6 lg:grid-cols-2">
    <ul class="mt-4 flex max-w-[46rem] flex-col gap-3">
      {#each ANALYSES as { key, title, asks } (key)}
        <li>
          <a class="says" href={to(key)}>{asks}</a>
          <span class="soft small block">{title}</span>
        </li>
      {/each}
    </ul>
    <div>
      <SavedList
        titles={{ ...LIFECYCLE, ...Object.fromEntries(ANALYSES.map(({ key, title }) => [key, title])) }}
      />
      <Starting />
    </div>
  </div>
{/if}
