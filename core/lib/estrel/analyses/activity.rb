# frozen_string_literal: true

module Estrel
  module Analyses
    # How many people are active, how often they come, and on which days of the week. Findings are about complete days
    # and periods only. The gaps between people's activity days add up over people, and so do those of devices, but
    # for the few that several people use: the days of these are put together before they are counted.
    class Activity < Analysis
      # The days within which is counted on how many days people come.
      OFTEN = 28
      WINDOWS = Lifecycle::ActivePeople::WINDOWS
      DEVICES = "Devices are counted by visitor identifier: one person may have several, and several people may " \
                "share one. Activity under other identifiers has no device."
      private_constant :WINDOWS, :DEVICES

      def self.states? = true

      def more?(found) = found.size < 2

      def doing(found) = found.empty? ? super : "Counting devices"

      def partial(part, found)
        lifecycle = part.lifecycle
        return on_devices(lifecycle, found.first) if found.any?

        { gaps: lifecycle.gaps(Lifecycle::Grouping.everybody(lifecycle.ledger)),
          devices: lifecycle.devices,
          often: lifecycle.days_per_person(workspace.as_of, OFTEN) }
      end

      # Of all devices, only those of several people go to the parts again.
      def settled(round, found)
        found.any? ? round : { **round.except(:devices), shared: round[:devices].shared }
      end

      def carried(found) = found.map { |round| round[:shared] }

      def answer((found, devices))
        @people = Lifecycle::ActivePeople.new(found[:gaps])
        @beginning = Lifecycle::Beginning.new([found[:gaps].frame["day"].min].compact)
        shared = Lifecycle::Gaps.of_devices(devices[:shared].frame)
        @gaps_of_devices = Lifecycle::ActivePeople.new(devices[:own] + shared)
        @often = found[:often]
        Answer.new(finding: finding, picture: picture, tables: [now_table, active_table, weekdays_table, often_table],
                   caveats: devices? ? [DEVICES] : [])
      end

      private

      def rests_on = [steps.key]

      # @param shared [Polars::Series] devices that are met in other parts too
      def on_devices(lifecycle, shared)
        theirs = lifecycle.device_days.filter(Polars.col("device").is_in(shared))
        { own: lifecycle.device_gaps(shared), shared: Sum::Rows.of(theirs.select(%w[device day])) }
      end

      def steps = @steps ||= steps_of_range

      def to = workspace.as_of

      def picture
        { from: steps.dates.first + 1, to: to, step: steps.unit, dates: steps.dates.drop(1),
          trailing: after_first(trailing), devices: after_first(devices), growth: growth,
          periods: periods, weekdays: weekdays, stickiness: stickiness }
      end

      def finding
        return "No one was active in this period." if trailing[28].last.zero?

        "#{number(trailing[28].last)} people active in the 28 days to #{English.date(to)}#{grown}. " \
          "Stickiness #{English.percent(stickiness[:share])}#{busiest}."
      end

      # Day by day, far enough back for every window to be compared with the one before it.
      def daily
        @daily ||= begin
          first = [steps.dates.first, to - WINDOWS.max].min
          days = Lifecycle::Steps.covering("day", first + 1, to)
          counts = @people.trailing(days).first
          days.dates.each_with_index.to_h { |date, index| [date, counts.transform_values { |list| list[index] }] }
        end
      end

      def trailing
        @trailing ||= [*WINDOWS, "total"].to_h do |window|
          [window, steps.dates.map { |date| daily.fetch(date)[window] }]
        end
      end

      def devices = @devices ||= @gaps_of_devices.trailing(steps).first

      def after_first(counts) = counts.transform_values { |list| list.drop(1) }.transform_keys(&:to_s)

      # Each window now compared with the same window ended just before it began.
      def growth
        @growth ||= WINDOWS.to_h do |window|
          before, now = [to - window, to].map { |date| daily.fetch(date)[window] }
          told = before.positive? && @beginning.reached?(to, (2 * window) - 1)
          [window.to_s, { before: before, now: now, share: told ? (now - before).fdiv(before) : nil }]
        end
      end

      def periods
        counts = @people.per_period(steps).first
        steps.periods(workspace.today).zip(counts).map { |period, people| { **period, **people } }
      end

      # Mean people per day of the week, over the complete days of the range.
      def weekdays
        @weekdays ||= begin
          told = daily.select { |date, _| date > steps.dates.first && date < workspace.today }
          by_day = told.group_by { |date, _| date.cwday }
          (1..7).map do |weekday|
            counts = by_day.fetch(weekday, []).map { |_, active| active[1] }
            { weekday: weekday, mean: counts.empty? ? nil : counts.sum.fdiv(counts.size), days: counts.size }
          end
        end
      end

      # The share of the people active in the trailing days who come on an average day of them, and how many came on how
      # many days.
      def stickiness
        people = @often.sum
        days = @often.each_with_index.sum { |count, index| count * (index + 1) }
        { window: OFTEN, people: people, distribution: @often,
          share: people.zero? ? nil : days.fdiv(people * OFTEN) }
      end

      def grown
        share = growth["28"][:share]
        return "" if share.nil? || !workspace.ended?

        " (#{English.growth(share)} vs the previous 28 days)"
      end

      def busiest
        return "" unless weekdays_differ?

        most, least = weekdays.minmax_by { |row| -row[:mean] }
        names = [most, least].map { |row| Date::DAYNAMES[row[:weekday] % 7] }
        "; busiest day #{names[0]} (#{number(most[:mean].round)}), quietest #{names[1]} (#{number(least[:mean].round)})"
      end

      # Beyond chance, week by week: M. Friedman, Journal of the American Statistical Association 32 (1937), 675–701.
      def weekdays_differ?
        days = daily.select { |date, _| date > steps.dates.first && date < workspace.today }
        weeks = days.group_by { |date, _| date - date.cwday }.values.select { |week| week.size == 7 }
        weeks = weeks.map { |week| week.sort.map { |_, active| active[1] } }
        weeks.size > 2 && Statistics::ChiSquare.upper(Statistics::ChiSquare.friedman(weeks), 6) <= 0.05
      end

      def number(value) = English.number(value)

      def active = @active ||= ActivePeople.new(workspace)

      # The windows that end with the as-of date, beside those that ended just before.
      def now_table
        rows = growth.map do |window, row|
          days = window.to_i
          Table.row([days, *row.values_at(:now, :before), row[:now] - row[:before], row[:share],
                     *(devices[days].last if devices?)],
                    people: active.within(to - days + 1, to),
                    cells: { "before" => active.within(to - (2 * days) + 1, to - days) }.compact)
        end
        Table.new("now", "Active people",
                  [["days", "Active within the last", "days"], ["people", "People", "people"],
                   ["before", "Previous period", "people"], ["change", "Change", "change"],
                   ["growth", "Growth", "growth"], *([["devices", "Devices", "count"]] if devices?)], rows)
      end

      def devices? = devices["total"].last.positive?

      def active_table
        counts = [*WINDOWS, "total"].map { |window| trailing[window].drop(1) }
        used = devices[28].drop(1)
        rows = steps.dates.drop(1).each_with_index.map do |date, index|
          cells = WINDOWS.to_h { |days| ["within_#{days}", active.within(date - days + 1, date)] }
          Table.row([date, *counts.map { |list| list[index] }, used[index]], cells: cells.compact)
        end
        windows = WINDOWS.map { |days| ["within_#{days}", days == 1 ? "1 day" : "#{days} days", "people"] }
        Table.new("active", "Active people by date",
                  [["date", "As of", "date"], *windows, ["total", "ever", "count"],
                   ["devices", "Devices, 28 days", "count"]], rows)
      end

      def weekdays_table
        rows = weekdays.map { |row| Table.row([Date::DAYNAMES[row[:weekday] % 7], row[:mean], row[:days]]) }
        Table.new("weekdays", "By day of the week",
                  [["weekday", "Day", "text"], ["mean", "People per day", "mean"],
                   ["days", "Days included", "count"]], rows)
      end

      def often_table
        rows = @often.each_with_index.map do |count, index|
          Table.row([index + 1, count], people: active.on_days(index + 1, to - OFTEN + 1, to))
        end
        Table.new("often", "Days active in the last #{OFTEN}",
                  [["days", "Days", "days"], ["people", "People", "people"]], rows)
      end
    end
  end
end
