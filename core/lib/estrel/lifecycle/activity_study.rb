# frozen_string_literal: true

module Estrel
  class Lifecycle
    # How many people are active, how often they come, and on which days of the week. Takeaways are about complete days
    # and periods only.
    class ActivityStudy
      # @param lifecycle [Lifecycle]
      # @param from [Date] a day of the first period
      # @param to [Date] the as-of date
      # @param today [Date] days from today on have not ended
      # @param unit [String] of {Steps::UNITS}
      def initialize(lifecycle, from:, to:, today:, unit: "day")
        @lifecycle = lifecycle
        @steps = Steps.covering(unit, from, to)
        @to = to
        @today = today
        @active = ActivePeople.new(lifecycle)
        @active_devices = ActiveDevices.new(lifecycle)
        @everybody = Grouping.everybody(lifecycle.ledger)
      end

      # @return [Hash] plain JSON
      def to_h
        { from: @steps.dates.first + 1, to: @to, step: @steps.unit, dates: @steps.dates.drop(1),
          trailing: after_first(trailing), devices: devices, growth: growth, periods: periods, weekdays: weekdays,
          stickiness: stickiness, takeaway: takeaway }
      end

      # @return [String]
      def takeaway
        return "Nobody was active in these days." if trailing[28].last.zero?

        "#{number(trailing[28].last)} people were active in the 28 days to #{Audience::Wording.date(@to)}" \
          "#{grown}. On a day of these, #{percent(stickiness[:share])} of them come#{busiest}."
      end

      private

      # Day by day, far enough back for every window to be compared with the one before it.
      def daily
        @daily ||= begin
          first = [@steps.dates.first, @to - ActivePeople::WINDOWS.max].min
          days = Steps.covering("day", first + 1, @to)
          counts = @active.trailing(days, @everybody).first
          days.dates.each_with_index.to_h { |date, index| [date, counts.transform_values { |list| list[index] }] }
        end
      end

      def trailing = @trailing ||= [*ActivePeople::WINDOWS, "total"].to_h { |window| [window, at_steps(window)] }

      def at_steps(window) = @steps.dates.map { |date| daily.fetch(date)[window] }

      def devices = after_first(@active_devices.trailing(@steps, @everybody).first)

      def after_first(counts) = counts.transform_values { |list| list.drop(1) }.transform_keys(&:to_s)

      # Each window now against the same window ended just before it began.
      def growth
        ActivePeople::WINDOWS.to_h do |window|
          before, now = [@to - window, @to].map { |date| daily.fetch(date)[window] }
          [window.to_s, { before: before, now: now, share: before.zero? ? nil : (now - before).fdiv(before) }]
        end
      end

      def periods
        counts = @active.per_period(@steps, @everybody).first
        @steps.periods(@today).zip(counts).map { |period, people| { **period, **people } }
      end

      # Mean people per day of the week, over the complete days of the range.
      def weekdays
        by_day = daily.select { |date, _| date > @steps.dates.first && date < @today }.group_by { |date, _| date.cwday }
        (1..7).map do |weekday|
          counts = by_day.fetch(weekday, []).map { |_, active| active[1] }
          { weekday: weekday, mean: counts.empty? ? nil : counts.sum.fdiv(counts.size), days: counts.size }
        end
      end

      # The share of the people active in the trailing days who come on an average day of them, and how many came on how
      # many days.
      def stickiness
        @stickiness ||= begin
          distribution = @active.days_per_person(@to, @everybody).first
          people = distribution.sum
          days = distribution.each_with_index.sum { |count, index| count * (index + 1) }
          { window: ActivePeople::STICKY, people: people, distribution: distribution,
            share: people.zero? ? nil : days.fdiv(people * ActivePeople::STICKY) }
        end
      end

      def grown
        share = growth["28"][:share]
        return "" if share.nil? || @to >= @today

        if share.zero?
          ", as many as in the 28 days before"
        else
          ", #{percent(share.abs)} #{share.positive? ? "more" : "fewer"} than in the 28 days before"
        end
      end

      def busiest
        known = weekdays.reject { |row| row[:mean].nil? }
        return "" if known.size < 7

        most = known.max_by { |row| row[:mean] }
        least = known.min_by { |row| row[:mean] }
        names = [most, least].map { |row| Date::DAYNAMES[row[:weekday] % 7] }
        "; most on a #{names[0]} (#{number(most[:mean].round)}), fewest on a #{names[1]} " \
          "(#{number(least[:mean].round)})"
      end

      def percent(share) = Audience::Wording.percent(share)

      def number(value) = Audience::Wording.number(value)
    end
  end
end
