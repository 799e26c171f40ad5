<script lang="ts">
  import AnalysisPage from "../analyses/AnalysisPage.svelte";
  import { upTo } from "../notes/notes.svelte";
  import LinePlot from "../charts/LinePlot.svelte";
  import { Asked } from "../lib/asked.svelte";
  import { fine, number } from "../lib/format";
  import { dateMarks } from "./lifecycle";

  /** At each past week's end: who was newly called churned, and how many of them were reactivated. */
  let { dormantAfter, churnedAfter }: { dormantAfter: number; churnedAfter: number } = $props();

  const WEEKS = 52;
  const backtest = new Asked("backtest", () => ({
    active_within: dormantAfter,
    churned_after: churnedAfter,
    weeks: WEEKS,
  }));

  function share(back: number | null | undefined, of: number): number | null {
    return back === null || back === undefined || of === 0 ? null : back / of;
  }
</script>

<AnalysisPage
  asked={backtest}
  under="Backtest"
  title="Reactivation rate of newly churned people"
  name="backtest"
  tables={{ weeks: { newest: true } }}
>
  {#snippet question()}
    Of people marked churned after {number(churnedAfter)} inactive days, how many were reactivated, last {WEEKS}
    weeks
  {/snippet}
  {#snippet picture(answer)}
    {@const rows = answer.picture.rows}
    <LinePlot
      label="Reactivation rate of newly churned people, by week"
      lines={[
        {
          name: "within 90 days",
          values: rows.map((row) => share(row.newly_back["90"], row.newly)),
          colour: "var(--state-active)",
        },
        {
          name: "within 30 days",
          values: rows.map((row) => share(row.newly_back["30"], row.newly)),
          colour: "var(--comparison-4)",
        },
      ]}
      xs={rows.map((_, index) => index)}
      marks={dateMarks(rows.map((row) => row.date))}
      format={fine}
      days={upTo(rows.map((row) => row.date))}
      height={190}
      room={180}
    />
  {/snippet}
</AnalysisPage>
