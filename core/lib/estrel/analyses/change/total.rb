# frozen_string_literal: true

module Estrel
  module Analyses
    class Change
      # The number itself in both periods.
      class Total
        # @param found [Hash{Symbol => Hash}] of {Counting#to_h}, of everybody
        def initialize(found)
          @blocks = [0, 1].map do |period|
            first = Counting.code(period, 0, 1)
            Array.new(Counting::BLOCKS) { |block| found[:y].fetch(first + block, 0) }
          end
        end

        # @return [Integer]
        def before = @blocks[0].sum

        # @return [Integer]
        def after = @blocks[1].sum

        # @return [Integer]
        def change = after - before

        # @return [Array(Float, Float)] the 95% interval of the change
        def interval
          scale = Counting::BLOCKS.fdiv(Counting::BLOCKS - 1)
          left_out = @blocks.transpose.map { |one, other| (change - (other - one)) * scale }
          Statistics::Means.jackknifed(change.to_f, left_out)
        end

        # @return [Boolean] whether it changed beyond chance
        def clear? = interval.first.positive? || interval.last.negative?

        # @return [Hash{Symbol => Object}] plain JSON
        def to_h
          low, high = interval
          { before: before, after: after, change: change, low: low, high: high }
        end
      end
    end
  end
end
