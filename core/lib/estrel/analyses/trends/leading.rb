# frozen_string_literal: true

module Estrel
  module Analyses
    class Trends
      # Which values have lines of their own where neither people nor events decide it: those whose figure over the
      # whole range is the highest. Of several series the figures of a value are added up where that means something, or
      # else the highest of them counts.
      class Leading
        # @param trends [Trends]
        def initialize(trends)
          @trends = trends
        end

        # @return [Lifecycle::Steps] the whole range as one period
        def range = @range ||= Lifecycle::Steps.between(*@trends.steps.dates.minmax)

        # @param counts [Hash] see {EventGroups#counts}
        # @return [Array<Array>] a group for each value, see {EventGroups#of}
        def all(counts) = Lifecycle::Grouping.labels(counts, counts.size)

        # @param labels [Array<Array>] of {#all}
        # @param found [Hash] of {Counting#to_h}, over {#range}
        # @return [Hash{String, nil => Numeric}] by value; what has no figure comes after all that have one
        def figures(labels, found)
          counts = @trends.read(found, range)
          labels.each_with_index.to_h { |(_, value), place| [value, figure(counts, place) || -Float::INFINITY] }
        end

        private

        def figure(counts, place)
          whole = counts.first.whole(place)
          return @trends.figure(counts, nil, whole) if @trends.combined?

          found = counts.each_index.filter_map { |index| @trends.figure(counts, index, whole) }
          @trends.measure.additive? ? found.sum : found.max
        end
      end
    end
  end
end
