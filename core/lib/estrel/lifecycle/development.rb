# frozen_string_literal: true

module Estrel
  class Lifecycle
    # The states of people at a series of dates and how they went from one to the next. Those of two parts of a ledger
    # add up.
    class Development
      include Analyses::Sum::Reversible

      # @return [Steps]
      attr_reader :steps
      # @return [Hash{String => Array<Integer>}] per state of {STATES}, and for "reactivated", people at each date
      attr_reader :series
      # @return [Array<Movement>] one for each period between two dates
      attr_reader :movements

      # @param lifecycle [Lifecycle]
      # @param steps [Steps]
      # @param grouping [Grouping]
      # @return [Array<Development>] one for each group
      def self.of(lifecycle, steps, grouping)
        lifecycle.series(steps, grouping).zip(lifecycle.movements(steps, grouping))
                 .map { |series, movements| new(steps, series, movements) }
      end

      def initialize(steps, series, movements)
        @steps = steps
        @series = series
        @movements = movements
        freeze
      end

      # @param other [Development] of other people at the same dates
      # @return [Development] of both
      def +(other)
        Development.new(steps, Analyses::Sum.of(series, other.series), Analyses::Sum.of(movements, other.movements))
      end

      # @param other [Development] of some of these people
      # @return [Development] of the others
      def -(other)
        rest = %i[series movements].map { |of| Analyses::Sum.less(public_send(of), other.public_send(of)) }
        Development.new(steps, *rest)
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
    end
  end
end
