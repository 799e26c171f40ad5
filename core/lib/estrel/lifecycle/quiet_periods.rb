# frozen_string_literal: true

module Estrel
  class Lifecycle
    # Every quiet period of everybody: the days from one activity day to the next, or, where there is none yet, to the
    # as-of date (right-censored). The periods of one person count as independent of each other.
    class QuietPeriods
      DAY = Spells::DAY
      private_constant :DAY

      # @param lifecycle [Lifecycle]
      # @param as_of [Date]
      def initialize(lifecycle, as_of)
        @as_of = as_of
        @lifecycle = lifecycle
        @last = Calendar.number(as_of)
      end

      # @param grouping [Grouping]
      # @return [Array<KaplanMeier>] one per group
      def estimates(grouping)
        @lifecycle.remembered(:quiet_periods, Steps.between(@as_of), grouping) { compute(grouping) }
      end

      private

      def compute(grouping)
        keys = @lifecycle.activity
        newest = keys.select([(key & (DAY - 1)).max.alias("newest")])["newest"][0]
        keys = keys.filter((key & (DAY - 1)) <= @last) if newest && newest > @last
        rows = [over(keys, grouping), not_over(keys)]
        ended, censored = rows.map { |found| tally(grouping.spread_keys(found), grouping) }
        ended.zip(censored).map { |one, other| KaplanMeier.new(one, other) }
      end

      def key = Polars.col("key")

      # The days from one activity day to the person's next; a day that stands twice is none.
      def over(keys, grouping)
        step = (key - key.shift(1)).alias("days")
        days = Polars.col("days")
        keys.lazy.select(grouping.whole? ? [step] : [key, step]).filter((days < Spells::APART) & (days != 0)).collect
      end

      # The days from everybody's last activity day to the as-of date.
      def not_over(keys)
        last = ((key.shift(-1) - key) >= Spells::APART).fill_null(true)
        keys.lazy.filter(last).select([key, (Polars.lit(@last) - (key & (DAY - 1))).alias("days")]).collect
      end

      # @return [Array<Hash{Integer => Integer}>] per group, how many periods of so many days
      def tally(rows, grouping)
        found = Array.new(grouping.size) { {} }
        Tally.of(rows, (Polars.col("group") * DAY) + Polars.col("days")).each do |code, count|
          group, days = code.divmod(DAY)
          found[group][days] = count
        end
        found
      end
    end
  end
end
