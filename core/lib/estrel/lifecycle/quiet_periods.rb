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
        found = Array.new(grouping.size) { [Hash.new(0), Hash.new(0)] }
        grouping.spread(durations).lazy.group_by(%w[group days ended]).agg([Polars.len.alias("n")]).collect.rows
                .each { |group, days, ended, count| found[group][ended ? 0 : 1][days] += count }
        found.map { |ended, censored| KaplanMeier.new(ended, censored) }
      end

      # One row per quiet period: profile_id, days, ended.
      def durations
        key = Polars.col("key")
        day = key % DAY
        until_then = @lifecycle.activity.filter(day <= @last)
        step = key.shift(-1) - key
        # The next activity day of the same person, or the as-of date.
        back = (step < Spells::APART).fill_null(false)
        until_then.select([key.floordiv(DAY).alias("profile_id"),
                           Polars.when(back).then(step).otherwise(Polars.lit(@last) - day).cast(Polars::Int32).alias("days"),
                           back.alias("ended")])
      end
    end
  end
end
