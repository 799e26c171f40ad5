# frozen_string_literal: true

module Estrel
  class Lifecycle
    # How many people, or devices, were active within the last so many days, and whether for the first time.
    #
    # Activity days that lie at most a window apart make one stretch over which their person counts without a break,
    # from the first of them until the window has passed the last one by. So every window takes only the ends of
    # stretches, which {Gaps} tell, however many dates are asked for.
    class ActivePeople
      # The days looked back over, beside all there are.
      WINDOWS = [1, 7, 28, 30].freeze
      DAY = Spells::DAY
      private_constant :DAY

      # @param gaps [Gaps]
      # @param groups [Integer] how many there are
      def initialize(gaps, groups = 1)
        @gaps = gaps
        @groups = groups
      end

      # @param steps [Steps]
      # @return [Array<Hash{Integer, String => Array<Integer>}>] per group, for each of {WINDOWS} and for "total", how
      #   many had been active within it at each date
      def trailing(steps)
        found = WINDOWS.to_h { |window| [window, at_dates(@gaps.begun(window), @gaps.over(window), window, steps)] }
        found["total"] = at_dates(@gaps.begun(Gaps::FIRST - 1), {}, 0, steps)
        Array.new(@groups) { |group| found.transform_values { |counts| counts[group] } }
      end

      # Somebody's first day in a period is one whose day before lies in an earlier period.
      #
      # @param steps [Steps] with periods
      # @return [Array<Array<Hash{Symbol => Integer}>>] per group and period `new` (active for the first time ever) and
      #   `again`: different people active in it
      def per_period(steps)
        fresh, again = first_days(steps)
        width = steps.size
        Array.new(@groups) do |group|
          (1...width).map { |at| [fresh, again].map { |counts| counts.fetch((group * width) + at, 0) } }
                     .map { |one, other| { new: one, again: other } }
        end
      end

      private

      # What has begun by each date and not ended so many days after, per group.
      def at_dates(begun, over, later, steps)
        changes = Array.new(@groups) { Hash.new(0) }
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

      # How many have their first day of all, and another first day of a period, by group and period.
      def first_days(steps)
        day, gap, at = %w[day gap at].map { |name| Polars.col(name) }
        first = gap == Gaps::FIRST
        rows = @gaps.frame.with_columns([steps.index(day).alias("at"), steps.index(day - gap).alias("before")])
                    .filter((at >= 1) & (at < steps.size) & (first | (Polars.col("before") != at)))
        code = (Polars.col("group") * steps.size) + at
        [first, first.is_not].map { |which| Tally.of(rows.filter(which), code, weight: "n") }
      end
    end
  end
end
