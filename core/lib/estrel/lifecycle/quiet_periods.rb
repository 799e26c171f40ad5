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
        width = 2 * DAY
        found = Array.new(grouping.size) { [{}, {}] }
        Tally.of(grouping.spread_keys(durations), (Polars.col("group") * width) + Polars.col("code")).each do |code, count|
          group, rest = code.divmod(width)
          days, censored = rest.divmod(2)
          found[group][censored][days] = count
        end
        found.map { |ended, censored| KaplanMeier.new(ended, censored) }
      end

      # One row per quiet period, by profile: key of the day it began on, and its days times two, plus one where it has not
      # ended.
      def durations
        key = Polars.col("key")
        day = key % DAY
        until_then = @lifecycle.activity
        newest = until_then.select([day.max.alias("newest")])["newest"][0]
        until_then = until_then.filter(day <= @last) if newest && newest > @last
        step = key.shift(-1) - key
        # The next activity day of the same person, or the as-of date.
        back = (step < Spells::APART).fill_null(false)
        until_then.select([key, Polars.when(back).then(step * 2).otherwise(((Polars.lit(@last) - day) * 2) + 1)
                                      .cast(Polars::Int32).alias("code")])
      end
    end
  end
end
