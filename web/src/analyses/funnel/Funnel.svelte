<script lang="ts">
  import { comparison } from "../../audiences/comparison.svelte";
  import GroupedBars from "../../charts/GroupedBars.svelte";
  import LinePlot from "../../charts/LinePlot.svelte";
  import type { Answer } from "../../lib/api/ask";
  import { Asked } from "../../lib/asked.svelte";
  import { percent } from "../../lib/format";
  import { peopleOf } from "../../lib/groups";
  import { dateMarks, firstIncomplete } from "../../lifecycle/lifecycle";
  import PhraseSelect from "../../ui/PhraseSelect.svelte";
  import { colourOf } from "../inks";
  import AnalysisPage from "../AnalysisPage.svelte";
  import SincePhrase from "../SincePhrase.svelte";
  import WithinPhrases from "../WithinPhrases.svelte";
  import ToldApart from "../ToldApart.svelte";
  import { put } from "../codec";
  import { asksSomething } from "../series";
  import LinesKey from "./LinesKey.svelte";
  import Path from "./Path.svelte";
  import { FORMS, openedBy, read, settled, stepsText, type Line, type Step } from "./question";
  import { barsOf, linksOf } from "./waits";
  import Steps from "./Steps.svelte";
  import StepsKey from "./StepsKey.svelte";
  import WaitsKey from "./WaitsKey.svelte";

  /** How many people go through steps one after the other, and where they stop. */
  let pointed = $state<number | null>(null);

  const asked = $derived(read());
  const funnel = new Asked("funnel", () => {
    const { steps, within, visit, from, drawn, step, by } = asked;
    if (!asksSomething([steps[0]!])) return null;
    return {
      ...{ steps, from },
      ...(visit ? { same_visit: true, counted: visit } : { within }),
      ...(drawn === "time" ? { over_time: true, step } : {}),
      ...(by ? { by } : { audiences: comparison.active }),
    };
  });
  const limit = $derived(asked.visit ?? (asked.within ? "within" : ""));

  const ask = (steps: Step[]) => put(stepsText(settled(steps)));
  const TITLES = {
    steps: "Funnel steps",
    waits: "Time between steps",
    time: "Completion rate by start date",
  };
  const FORM_NAMES = { steps: "steps", waits: "time between steps", time: "over time" };

  function setLimit(how: string) {
    put({
      visit: how === "people" || how === "visits" ? how : null,
      within: how === "within" ? "14 days" : null,
    });
  }

  function people(answer: Answer<"funnel">, at: number, what: "people" | "lost", line = 0): string | null {
    const found = openedBy(answer, at, what, line);
    return found && peopleOf([found]);
  }

  const ends = (line: Line) =>
    (line.over ?? []).map((counts) => (counts[0] ? counts.at(-1)! / counts[0] : null));
</script>

<AnalysisPage asked={funnel} title={TITLES[asked.drawn]} name="funnel" left={asked.left}>
  {#snippet question()}
    Of people who <Steps steps={asked.steps} change={ask} />, <PhraseSelect
      label="Time limit"
      ink="when"
      value={limit}
      options={[
        ["", "no time limit"],
        ["within", "within"],
        ["people", "in one visit"],
        ["visits", "in one visit (count visits)"],
      ]}
      choose={setLimit}
    />{#if asked.within && !asked.visit}
      <WithinPhrases within={asked.within} />{/if}, <SincePhrase from={asked.from} />, <ToldApart
      overTime
      split={Boolean(asked.by)}
    />
  {/snippet}
  {#snippet beside(answer)}
    <span class="flex gap-2" role="group" aria-label="Drawn as">
      {#each FORMS as form (form)}
        <button
          class="small cursor-pointer px-1 {asked.drawn === form ? 'font-semibold' : 'soft underline'}"
          aria-pressed={asked.drawn === form}
          onclick={() => put({ drawn: form === "steps" ? null : form })}>{FORM_NAMES[form]}</button
        >
      {/each}
      {#if asked.drawn === "waits" && answer.picture.rows.length > 1}
        <select
          class="small"
          aria-label="Time to step"
          value={String(asked.link ?? "")}
          onchange={(event) => put({ link: event.currentTarget.value })}
        >
          {#each linksOf(answer.picture) as at, index (at)}
            <option value={index ? String(at) : ""}>to step {at + 1}</option>
          {/each}
        </select>
      {/if}
      {#if asked.drawn === "time"}
        <select
          class="small"
          aria-label="Interval"
          value={asked.step}
          onchange={(event) =>
            put({ step: event.currentTarget.value === "week" ? null : event.currentTarget.value })}
        >
          {#each ["day", "week", "month"] as step (step)}<option value={step}>by {step}</option>{/each}
        </select>
      {/if}
    </span>
  {/snippet}
  {#snippet picture(answer)}
    {@const data = answer.picture}
    <div class="grid grid-cols-[minmax(0,1fr)] gap-x-8 gap-y-4 lg:grid-cols-[minmax(0,1fr)_260px]">
      {#if asked.drawn === "time" && data.periods}
        <LinePlot
          label="Completion rate by start {asked.step}"
          lines={data.rows.map((line, index) => ({
            name: data.rows.length > 1 ? line.name : "",
            colour: colourOf(line, index),
            values: ends(line),
          }))}
          xs={data.periods.map((_, index) => index)}
          marks={dateMarks(data.periods.map(({ from }) => from))}
          format={percent}
          unfinished={firstIncomplete(data.periods)}
          days={data.periods}
          height={330}
          room={data.rows.length > 1 ? 150 : 60}
          bind:pointed
        />
      {:else if asked.drawn === "waits"}
        {@const bars = barsOf(data, asked.link)}
        <GroupedBars
          places={bars.places}
          series={bars.series}
          label="Time between steps, % of people who reached the step"
          format={percent}
          height={330}
        />
      {:else if data.rows.length === 1}
        <Path
          names={data.steps}
          optional={data.optional}
          line={data.rows[0]!}
          got={(at) => people(answer, at, "people")}
          lost={(at) => people(answer, at, "lost")}
          label="Funnel, % of people who entered"
        />
      {:else}
        <GroupedBars
          places={data.steps.map((name, at) => `${at + 1} ${name}`)}
          series={data.rows.map((line, index) => ({
            name: line.name,
            colour: colourOf(line, index),
            values: line.steps.map(({ share }) => share),
            hrefs: line.steps.map((_, at) => people(answer, at, "people", index)),
          }))}
          label="% of people who entered, by step"
          format={percent}
          height={330}
        />
      {/if}
      <div data-testid="funnel-key">
        {#if asked.drawn === "waits"}
          <WaitsKey series={barsOf(data, asked.link).series} />
        {:else if data.rows.length > 1}
          <LinesKey lines={data.rows} />
        {:else if data.rows.length}
          <StepsKey {answer} steps={asked.steps} change={ask} />
        {/if}
      </div>
    </div>
  {/snippet}
  {#snippet instead()}
    <p class="soft small mt-1">No events yet. Import a file or connect a source.</p>
  {/snippet}
</AnalysisPage>
