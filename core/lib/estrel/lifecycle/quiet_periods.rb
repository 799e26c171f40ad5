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
        @lifecycle = lifecycle
        @as_of = as_of
        @last = Calendar.number(as_of)
      end

      # @param grouping [Grouping]
      # @return [Array<KaplanMeier>] one per group
      def estimates(grouping)
        @lifecycle.remembered(:quiet_periods, Steps.between(@as_of), grouping) { compute(grouping) }
      end

      private

      def compute(grouping)
        gaps = @lifecycle.gaps(grouping).until(@last)
        ended = by_group(gaps.lengths, grouping)
        censored = by_group(gaps.last, grouping) { |day| @last - day }
        ended.zip(censored).map { |one, other| KaplanMeier.new(one, other) }
      end

      # @return [Array<Hash{Integer => Integer}>] per group, how many periods of so many days
      def by_group(counts, grouping)
        found = Array.new(grouping.size) { {} }
        counts.each do |code, count|
          group, number = code.divmod(DAY)
          found[group][block_given? ? yield(number) : number] = count if count.positive?
        end
        found
      end
    end
  end
end
