# frozen_string_literal: true

module Estrel
  class Lifecycle
    # The states of people at a series of dates and how they went from one to the next. Those of two parts of a ledger
    # add up, and travel, in one go: all of it are numbers in a column.
    class Development
      include Analyses::Sum::Reversible

      # What is counted at each date.
      COUNTED = [*STATES, "reactivated"].freeze
      private_constant :COUNTED

      # @return [Steps]
      attr_reader :steps

      # @param lifecycle [Lifecycle]
      # @param steps [Steps]
      # @param grouping [Grouping]
      # @return [Array<Development>] one for each group
      def self.of(lifecycle, steps, grouping)
        lifecycle.series(steps, grouping).zip(lifecycle.movements(steps, grouping))
                 .map { |series, movements| counted(steps, series, movements) }
      end

      # @param steps [Steps]
      # @param series [Hash{String => Array<Integer>}] see {#series}
      # @param movements [Array<Movement>] see {#movements}
      # @return [Development]
      def self.counted(steps, series, movements)
        numbers = [*series.values_at(*COUNTED), *movements.map(&:counts)].flatten(1)
        new(steps, Polars::Series.new("people", numbers, dtype: Polars::Int64))
      end

      # @param steps [Steps]
      # @param numbers [Polars::Series] people at each date, for one of {COUNTED} after the other, and then the table of
      #   each period
      def initialize(steps, numbers)
        @steps = steps
        @numbers = numbers
      end

      # @param other [Development] of other people at the same dates
      # @return [Development] of both
      def +(other) = Development.new(steps, numbers + other.numbers)

      # @param other [Development] of some of these people
      # @return [Development] of the others
      def -(other) = Development.new(steps, numbers - other.numbers)

      # @return [Array]
      def marshal_dump = [steps, numbers]

      # @return [void]
      def marshal_load(dumped)
        @steps, @numbers = dumped
      end

      # @return [Hash{String => Array<Integer>}] per state of {STATES}, and for "reactivated", people at each date
      def series
        @series ||= COUNTED.each_with_index.to_h { |name, at| [name, told[at * steps.size, steps.size]] }
      end

      # @return [Array<Movement>] one for each period between two dates
      def movements
        @movements ||= told.drop(COUNTED.size * steps.size).each_slice(STATES.size**2)
                           .map { |counts| Movement.new(counts) }
      end

      # @return [Integer] position of the last date
      def last = steps.size - 1

      # @param at [Integer] position of a date
      # @return [Hash{String => Integer}] people per state
      def states(at) = STATES.to_h { |state| [state, series[state][at]] }

      # @param at [Integer]
      # @return [Integer] people seen by the date
      def people(at) = states(at).values.sum

      # @param at [Integer]
      # @return [Integer] new and active people
      def alive(at) = series["new"][at] + series["active"][at]

      # @param today [Date]
      # @return [Array<Array(Hash, Movement)>] the periods that have ended and are looked at whole, with their movements
      def complete(today) = steps.periods(today).zip(movements).select { |period, _| period[:complete] }

      protected

      attr_reader :numbers

      private

      def told = @told ||= numbers.to_a
    end
  end
end
