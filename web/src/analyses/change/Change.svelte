<script lang="ts">
  import { comparison } from "../../audiences/comparison.svelte";
  import type { Answer } from "../../lib/api/ask";
  import { Asked } from "../../lib/asked.svelte";
  import { day, number, signed } from "../../lib/format";
  import { peopleOf } from "../../lib/groups";
  import { range } from "../../lib/range.svelte";
  import DateField from "../../ui/DateField.svelte";
  import PhraseSelect from "../../ui/PhraseSelect.svelte";
  import AnalysisPage from "../AnalysisPage.svelte";
  import { put, selectionText } from "../codec";
  import EventsPhrase from "../EventsPhrase.svelte";
  import KeyFigures from "../KeyFigures.svelte";
  import { asksSomething } from "../series";
  import { read, type Picture } from "./question";
  import ReasonsPlot from "./ReasonsPlot.svelte";

  /** Why a number moved from one period to another. */
  const asked = $derived(read());
  const change = new Asked("change", () => {
    const { of, measure, date, against } = asked;
    if (!asksSomething([of])) return null;
    return {
      ...{ of, measure, against, step: range.step, audiences: comparison.active },
      ...(date ? { at: date } : {}),
    };
  });

  /** Whoever did it in the later period, of the groups that reasons are about. */
  function hrefs({ tables, picture }: Answer<"change">): (string | null)[] {
    return picture.reasons.map((_, at) => {
      const people = tables[0]?.rows[at]?.cells["y_1"];
      return people ? peopleOf([people]) : null;
    });
  }

  const parts = ({ parts: { size, rate }, measure }: Picture): [string, string][] => [
    ["Number of known people", signed(Math.round(size))],
    [measure === "people" ? "Share of them doing it" : "Times per person", signed(Math.round(rate))],
  ];
</script>

<AnalysisPage
  asked={change}
  title="Possible drivers"
  name="change"
  left={asked.left}
  tables={{ reasons: {}, splits: {}, groups: {} }}
>
  {#snippet question()}
    Why did <PhraseSelect
      label="Measure"
      ink="what"
      value={asked.measure}
      options={[
        ["people", "the number of people who"],
        ["times", "how often people"],
      ]}
      choose={(measure) => put({ measure: measure === "people" ? null : measure })}
    />
    <EventsPhrase
      label="What they did"
      selection={asked.of}
      done
      change={(event) => put({ event: selectionText(event), also: null })}
    />
    change from <PhraseSelect
      label="Compared with"
      ink="when"
      value={asked.against}
      options={[
        ["previous", `the previous ${range.step}`],
        ["year", `the same ${range.step} last year`],
      ]}
      choose={(against) => put({ behind: against === "year" ? against : null })}
    /> to the <PhraseSelect
      label="Interval"
      ink="when"
      value={range.step}
      options={[
        ["day", "day"],
        ["week", "week"],
        ["month", "month"],
      ]}
      choose={(step) => put({ step })}
    /> of <DateField
      phrase
      label="A day of the period"
      value={asked.date ?? change.data?.picture.after.from}
      change={(date) => put({ date })}
    />?
  {/snippet}
  {#snippet picture(answer)}
    {@const data = answer.picture}
    <div class="grid grid-cols-[minmax(0,1fr)] gap-x-8 gap-y-4 lg:grid-cols-[minmax(0,1fr)_260px]">
      <div class="min-w-0">
        {#if data.reasons.length}
          <ReasonsPlot reasons={data.reasons} hrefs={hrefs(answer)} label="Contribution to the change" />
          <p class="soft small mt-1">
            Filled: significant, of {number(data.looked_at)} tested. Group: change beyond what it would have been
            had the group changed like all others. Mix: effect of a changed composition.
          </p>
        {/if}
      </div>
      <div data-testid="change-key">
        <KeyFigures
          title={data.measure === "people" ? "People" : "Times"}
          figures={[
            [`from ${day(data.before.from)}`, number(data.total.before)],
            [`from ${day(data.after.from)}`, number(data.total.after)],
            ["change", signed(data.total.change)],
          ]}
        />
        <KeyFigures title="Components of the change" figures={parts(data)} />
      </div>
    </div>
  {/snippet}
  {#snippet instead()}
    <p class="soft small mt-1">No events yet. Import a file or connect a source.</p>
  {/snippet}
</AnalysisPage>
