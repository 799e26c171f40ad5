# frozen_string_literal: true

module Estrel
  module Analyses
    class Change
      # All that a change may come of, ranked: what is beyond chance first, so many having been looked at, and the
      # larger part of the change before the smaller.
      class Reasons
        include Enumerable

        # How many are drawn.
        SHOWN = 12

        # @param decompositions [Array<Decomposition>]
        def initialize(decompositions)
          @all = decompositions.flat_map(&:reasons)
          @clear = Statistics::Holm.beyond_chance(@all, &:p_value)
        end

        # @return [Integer] how many were looked at
        def size = @all.size

        # @yieldparam reason [Reason] in order
        # @return [void]
        def each(&) = ranked.each(&)

        # @param reason [Reason]
        # @return [Boolean] whether it is beyond chance
        def clear?(reason) = @clear.include?(reason)

        private

        def ranked
          @ranked ||= @all.sort_by.with_index { |reason, at| [clear?(reason) ? 0 : 1, -reason.amount.abs, at] }
        end
      end
    end
  end
end
