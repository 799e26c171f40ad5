<script lang="ts">
  import GroupedBars from "../../charts/GroupedBars.svelte";
  import type { Answer } from "../../lib/api/ask";
  import { Asked } from "../../lib/asked.svelte";
  import { groupings } from "../../groupings/groupings.svelte";
  import { problemOf } from "../../lib/api/client";
  import { day, number, percent, ratio } from "../../lib/format";
  import { session } from "../../lib/session.svelte";
  import { said } from "../../lib/toasts.svelte";
  import { peopleOf } from "../../lib/groups";
  import { workspace } from "../../lib/workspace.svelte";
  import PhraseSelect from "../../ui/PhraseSelect.svelte";
  import AnalysisPage from "../AnalysisPage.svelte";
  import { put } from "../codec";
  import KeyFigures from "../KeyFigures.svelte";
  import { KINDS, read, WITHIN, type Picture } from "./question";

  /** How likely people are to come back, or to lapse. */
  const SHOWN = 6;
  const asked = $derived(read());
  const chance = new Asked("chance", () =>
    workspace.ruleSet ? { of: asked.of, within_days: asked.within } : null,
  );

  /** The people of each tenth of now; the table begins with the likeliest. */
  const hrefs = ({ tables }: Answer<"chance">) =>
    (tables[0]?.rows ?? []).map((row) => (row.people ? peopleOf([row.people]) : null)).toReversed();
  const three = ({ estimate, low, high }: { estimate: number; low: number; high: number }) =>
    `${estimate.toFixed(3)} (${low.toFixed(3)} to ${high.toFixed(3)})`;
  let keeping = $state(false);

  /** The tenths become groups by which people are told apart everywhere, by the model as it is now. */
  async function keepTenths({ picture, tables }: Answer<"chance">) {
    if (keeping) return;
    keeping = true;
    const people = (tables[0]?.rows ?? []).map((row) => row.people).toReversed();
    const groups = picture.tenths.flatMap((_, at) =>
      people[at] ? [{ name: `decile ${at + 1}`, who: people[at] }] : [],
    );
    const what = asked.of === "lapse" ? "lapse" : "be reactivated";
    const name = `Reactivation probability within ${asked.within} days, deciles of ${day(workspace.asOf)}`;
    try {
      const kept = await groupings.add({ name, groups: groups.toReversed() });
      said(`Saved as custom groups: “${name}”`, () => groupings.remove(kept));
    } catch (error) {
      said(problemOf(error).detail);
    }
    keeping = false;
  }

  /** What it rests on most. */
  const odds = (weights: Picture["weights"]): [string, string][] =>
    weights
      .toSorted((one, other) => Math.abs(Math.log(other.odds)) - Math.abs(Math.log(one.odds)))
      .slice(0, SHOWN)
      .map(({ name, odds, low, high }) => [name, `× ${ratio(odds)} (${ratio(low)} to ${ratio(high)})`]);
</script>

<AnalysisPage
  asked={chance}
  title="Predicted and actual by decile (backtest)"
  name="chance"
  left={asked.left}
>
  {#snippet question()}
    How likely are <PhraseSelect
      label="What"
      ink="state"
      value={asked.of}
      options={Object.entries(KINDS)}
      choose={(of) => put({ chance: of === "lapse" ? of : null })}
    /> within <PhraseSelect
      label="Within"
      ink="when"
      value={String(asked.within)}
      options={[...new Set([...WITHIN, asked.within])].map((days) => [String(days), `${days} days`] as const)}
      choose={(within) => put({ within: within === "30" ? null : within })}
    />?
  {/snippet}
  {#snippet picture(answer)}
    {@const data = answer.picture}
    {#if data.tenths.length}
      {@const places = data.tenths.map((_, at) => String(at + 1))}
      <div class="grid grid-cols-[minmax(0,1fr)] gap-x-8 gap-y-4 lg:grid-cols-[minmax(0,1fr)_300px]">
        <div class="min-w-0">
          <GroupedBars
            {places}
            series={[
              {
                name: "actual",
                colour: "var(--comparison-0)",
                values: data.tenths.map(({ observed }) => observed),
                behind: data.tenths.map(({ predicted }) => predicted),
                intervals: data.tenths.map(({ low, high }) =>
                  low === null || high === null ? null : [low, high],
                ),
                hrefs: [],
              },
            ]}
            label="Actual rate in the backtest, from the lowest to the highest decile"
            format={percent}
            height={240}
          />
          <p class="soft small">
            Deciles from lowest to highest probability. Dotted: predicted. People per decile today:
          </p>
          <GroupedBars
            {places}
            series={[
              {
                name: "people today",
                colour: "var(--rule-strong)",
                values: data.tenths.map(({ people }) => people),
                hrefs: hrefs(answer),
              },
            ]}
            label="People today by decile"
            format={number}
            height={110}
          />
        </div>
        <div data-testid="chance-key">
          {#if data.discrimination}
            {@const { model, plain, difference } = data.discrimination}
            <KeyFigures
              title="Model quality: AUC (c-statistic), 95% CI"
              figures={[
                ["this model", three(model)],
                ["days inactive only", three(plain)],
                ["difference", three(difference)],
              ]}
            />
          {/if}
          {#if session.may("analyst")}
            <p class="small mt-3">
              <button class="cursor-pointer underline" disabled={keeping} onclick={() => keepTenths(answer)}
                >Save deciles as custom groups</button
              >
            </p>
          {/if}
          <KeyFigures title="Odds ratio per doubling of …" figures={odds(data.weights)} />
        </div>
      </div>
    {/if}
  {/snippet}
  {#snippet instead()}
    <p class="soft small mt-1">Define what counts as activity first (Lifecycle → Rules).</p>
  {/snippet}
</AnalysisPage>
