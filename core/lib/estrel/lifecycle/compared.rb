# frozen_string_literal: true

module Estrel
  class Lifecycle
    # The state of several groups of people beside each other, and how each moved over the complete periods of a range.
    class Compared
      # One group: `people` seen by the last date, of them per state; `before`: the same at the first date; `parts`: how
      # many moved in each named way, period by period, added up; `ratio` over all of them and `ratios` per period (nil
      # where nobody lapsed or the period is incomplete).
      Row = Struct.new(:label, :people, :states, :before, :parts, :ratio, :ratios, keyword_init: true)

      # @param lifecycle [Lifecycle]
      # @param steps [Steps]
      # @param today [Date]
      def initialize(lifecycle, steps, today)
        @lifecycle = lifecycle
        @steps = steps
        @complete = steps.periods(today).map { |period| period[:complete] }
      end

      # @param grouping [Grouping]
      # @return [Array<Row>] one per group
      def rows(grouping)
        series = @lifecycle.series(@steps, grouping)
        movements = @lifecycle.movements(@steps, grouping)
        grouping.labels.each_index.map { |group| row(grouping.labels[group], series[group], movements[group]) }
      end

      private

      def row(label, series, movements)
        told = movements.zip(@complete)
        whole = told.filter_map { |movement, complete| movement if complete }
        parts = Movement::PARTS.keys.to_h { |name| [name, whole.sum { |movement| movement.part(name) }] }
        at = ->(index) { STATES.to_h { |state| [state, series[state][index]] } }
        Row.new(label: label, people: at.call(-1).values.sum, states: at.call(-1), before: at.call(0), parts: parts,
                ratio: parts["lapsed"].zero? ? nil : (parts["joined"] + parts["returned"]).fdiv(parts["lapsed"]),
                ratios: told.map { |movement, complete| complete ? movement.replacement_ratio : nil })
      end
    end
  end
end
