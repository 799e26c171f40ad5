# frozen_string_literal: true

module Estrel
  class Lifecycle
    # How many people were active within the last so many days, how often, and whether for the first time.
    #
    # Activity days that lie at most a window apart make one stretch over which their person counts without a break,
    # from the first of them until the window has passed the last one by. So every window takes only the ends of
    # stretches, which {Gaps} tell, however many dates are asked for.
    class ActivePeople
      # The days looked back over, beside all there are.
      WINDOWS = [1, 7, 28, 30].freeze
      # The window of {#days_per_person}.
      STICKY = 28
      DAY = Spells::DAY
      private_constant :DAY

      # @param lifecycle [Lifecycle]
      def initialize(lifecycle)
        @lifecycle = lifecycle
      end

      # @param steps [Steps]
      # @param grouping [Grouping]
      # @return [Array<Hash{Integer, String => Array<Integer>}>] per group, for each of {WINDOWS} and for "total", how
      #   many people had been active within it at each date
      def trailing(steps, grouping)
        remembered(:trailing, steps, grouping) { compute_trailing(steps, grouping) }
      end

      # @param steps [Steps] with periods
      # @param grouping [Grouping]
      # @return [Array<Array<Hash{Symbol => Integer}>>] per group and period `new` (active for the first time ever) and
      #   `again`: different people active in it
      def per_period(steps, grouping)
        remembered(:per_period, steps, grouping) { compute_per_period(steps, grouping) }
      end

      # How many days each person was active on of the last {STICKY} days.
      #
      # @param date [Date]
      # @param grouping [Grouping]
      # @return [Array<Array<Integer>>] per group, for 1 to {STICKY} days, people
      def days_per_person(date, grouping)
        remembered(:days_per_person, Steps.between(date), grouping) do
          compute_days_per_person(date, grouping)
        end
      end

      private

      # @return [Polars::DataFrame] the sorted column `key`: who, times {DAY}, plus day
      def activity = @lifecycle.activity

      def gaps(grouping) = @lifecycle.gaps(grouping)

      def remembered(what, steps, grouping, &) = @lifecycle.remembered([self.class, what], steps, grouping, &)

      def compute_trailing(steps, grouping)
        gaps = gaps(grouping)
        found = WINDOWS.to_h do |window|
          [window, at_dates(gaps.begun(window), gaps.over(window), window, steps, grouping)]
        end
        found["total"] = at_dates(gaps.begun(Gaps::FIRST - 1), {}, 0, steps, grouping)
        Array.new(grouping.size) { |group| found.transform_values { |counts| counts[group] } }
      end

      # What has begun by each date and not ended so many days after, per group.
      def at_dates(begun, over, later, steps, grouping)
        changes = Array.new(grouping.size) { Hash.new(0) }
        [[begun, 1, 0], [over, -1, later]].each do |counts, sign, shift|
          counts.each do |code, people|
            group, day = code.divmod(DAY)
            changes[group][day + shift] += sign * people
          end
        end
        changes.map { |by_day| running(by_day.sort, steps.days) }
      end

      def running(changes, days)
        total = 0
        days.map do |day|
          total += changes.shift.last while changes.any? && changes.first.first <= day
          total
        end
      end

      # Somebody's first day in a period is one whose day before lies in an earlier period.
      def compute_per_period(steps, grouping)
        day, gap, at = %w[day gap at].map { |name| Polars.col(name) }
        first = gap == Gaps::FIRST
        before = steps.index(day - gap)
        rows = gaps(grouping).frame.with_columns([steps.index(day).alias("at"), before.alias("before")])
                             .filter((at >= 1) & (at < steps.size) & (first | (Polars.col("before") != at)))
        width = steps.size
        fresh, again = [first, first.is_not].map do |which|
          Tally.of(rows.filter(which), (Polars.col("group") * width) + at, weight: "n")
        end
        Array.new(grouping.size) do |group|
          (1...width).map { |at| [fresh, again].map { |counts| counts.fetch((group * width) + at, 0) } }
                     .map { |one, other| { new: one, again: other } }
        end
      end

      def compute_days_per_person(date, grouping)
        last = Calendar.number(date)
        key = Polars.col("key")
        recent = activity.filter((key & (DAY - 1)).is_between(last - STICKY + 1, last))
        recent = grouping.spread_keys(recent.filter(key.ne_missing(key.shift(1))))
        each = recent.select([Polars.col("group"), key.floordiv(DAY).alias("profile_id")])
                     .group_by("profile_id").agg([Polars.col("group").first, Polars.len.alias("days")])
        found = Array.new(grouping.size) { Array.new(STICKY, 0) }
        Tally.of(each, (Polars.col("group") * (STICKY + 1)) + Polars.col("days")).each do |code, people|
          group, days = code.divmod(STICKY + 1)
          found[group][days - 1] += people
        end
        found
      end
    end
  end
end
