<script lang="ts">
  import { DatePicker, parseDate } from "@skeletonlabs/skeleton-svelte";
  import { onMount, tick } from "svelte";
  import { shortcuts } from "../lib/dates";
  import { firstIn } from "../lib/focus";
  import { day } from "../lib/format";

  /** A month to choose a day from, with the days that are asked for often. */
  let {
    value,
    least,
    most,
    today,
    choose,
  }: {
    value: string;
    least?: string;
    most?: string;
    today: string;
    choose: (iso: string) => void;
  } = $props();

  // It may arrive after its panel has opened.
  let root = $state<HTMLElement>();
  onMount(() => void tick().then(() => root && firstIn(root)?.focus()));

  const allowed = (iso: string) => (!least || iso >= least) && (!most || iso <= most);
  const offered = $derived(shortcuts(today).filter(([, iso]) => allowed(iso)));
</script>

<div bind:this={root}>
  <DatePicker
    inline
    locale="en-GB"
    startOfWeek={1}
    defaultValue={[parseDate(value)]}
    defaultFocusedValue={parseDate(value)}
    min={least ? parseDate(least) : undefined}
    max={most ? parseDate(most) : undefined}
    onValueChange={(details) => details.value[0] && choose(details.value[0].toString())}
  >
    <!-- Moves the focus along with the arrow keys. -->
    <DatePicker.Content>
      {#each ["day", "month", "year"] as const as view (view)}
        <DatePicker.View {view}>
          <DatePicker.Context>
            {#snippet children(picker)}
              <DatePicker.ViewControl class="flex items-center justify-between">
                <DatePicker.PrevTrigger class="quiet" aria-label="Previous month">‹</DatePicker.PrevTrigger>
                <DatePicker.ViewTrigger
                  class="cursor-pointer font-semibold"
                  aria-label="{picker().visibleRangeText.start}: choose another {view === 'day'
                    ? 'month'
                    : 'year'}"><DatePicker.RangeText /></DatePicker.ViewTrigger
                >
                <DatePicker.NextTrigger class="quiet" aria-label="Next month">›</DatePicker.NextTrigger>
              </DatePicker.ViewControl>
              <DatePicker.Table class="mt-2 w-full text-center">
                {#if view === "day"}
                  <DatePicker.TableHead>
                    <DatePicker.TableRow>
                      {#each picker().weekDays as weekday (weekday.long)}
                        <DatePicker.TableHeader class="soft small py-1" aria-label={weekday.long}
                          >{weekday.short.slice(0, 2)}</DatePicker.TableHeader
                        >
                      {/each}
                    </DatePicker.TableRow>
                  </DatePicker.TableHead>
                  <DatePicker.TableBody>
                    {#each picker().weeks as week (String(week[0]))}
                      <DatePicker.TableRow>
                        {#each week as date (String(date))}
                          <DatePicker.TableCell value={date}
                            ><DatePicker.TableCellTrigger class="day">{date.day}</DatePicker.TableCellTrigger
                            ></DatePicker.TableCell
                          >
                        {/each}
                      </DatePicker.TableRow>
                    {/each}
                  </DatePicker.TableBody>
                {:else}
                  <DatePicker.TableBody>
                    {#each view === "month" ? picker().getMonthsGrid( { columns: 4, format: "short" } ) : picker().getYearsGrid( { columns: 4 } ) as row, at (at)}
                      <DatePicker.TableRow>
                        {#each row as cell (cell.value)}
                          <DatePicker.TableCell value={cell.value}
                            ><DatePicker.TableCellTrigger class="day"
                              >{cell.label}</DatePicker.TableCellTrigger
                            ></DatePicker.TableCell
                          >
                        {/each}
                      </DatePicker.TableRow>
                    {/each}
                  </DatePicker.TableBody>
                {/if}
              </DatePicker.Table>
            {/snippet}
          </DatePicker.Context>
        </DatePicker.View>
      {/each}
    </DatePicker.Content>
  </DatePicker>
</div>
{#if offered.length}
  <div class="mt-2 flex flex-wrap gap-2 border-t border-(--rule) pt-2">
    {#each offered as [name, iso] (name)}
      <button type="button" class="quiet small" title={day(iso)} onclick={() => choose(iso)}>{name}</button>
    {/each}
  </div>
{/if}

<style>
  :global([data-part="table-cell-trigger"].day) {
    padding: 4px 2px;
    border-radius: 3px;
    cursor: pointer;
    font-variant-numeric: tabular-nums;
  }
  :global([data-part="table-cell-trigger"].day:hover) {
    background: var(--paper-deep);
  }
  :global([data-part="table-cell-trigger"].day[data-selected]) {
    background: var(--accent);
    color: var(--paper);
  }
  :global([data-part="table-cell-trigger"].day[data-outside-range]),
  :global([data-part="table-cell-trigger"].day[data-disabled]) {
    color: var(--ink-soft);
  }
  :global([data-part="table-cell-trigger"].day[data-disabled]) {
    opacity: 0.5;
    cursor: default;
  }
</style>
