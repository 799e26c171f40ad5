# frozen_string_literal: true

module Estrel
  module Analyses
    class Experience
      # How often something was done per person, per visit or of all, at one place, block of people by block: one person
      # does it several times, so intervals are made by leaving one block out at a time.
      class Ratio
        # @return [Array<Array(Integer, Integer)>] of each block, the times and what they are divided by
        attr_reader :blocks

        # @param blocks [Array<Array(Integer, Integer)>]
        def initialize(blocks)
          @blocks = blocks
        end

        # @return [Float, nil] nil of nothing
        def value = @value ||= (divided(*total) if total.last.positive?)

        # @return [Array(Float, Float), Array(nil, nil)] the 95% interval, see {Statistics::Means.jackknife}
        def interval = @interval ||= Statistics::Means.jackknife(blocks)

        # @param other [Ratio] of the same blocks
        # @return [Hash{Symbol => Float}, nil] `estimate` and `p_value` of this minus the other; nil where either is of
        #   nothing without one block
        def difference(other)
          left = left_out.zip(other.left_out)
          return if left.flatten.any?(&:nil?)

          estimate = value - other.value
          { estimate: estimate,
            p_value: Statistics::Means.jackknife_p_value(estimate, left.map { |own, others| own - others }) }
        end

        # @return [Array<Float, nil>] the value without each block
        def left_out
          @left_out ||= blocks.map do |sum, count|
            divided(total.first - sum, total.last - count) if total.last > count
          end
        end

        private

        def total = @total ||= blocks.transpose.map(&:sum)

        def divided(sum, count) = sum.fdiv(count)
      end
    end
  end
end
