# frozen_string_literal: true

module Estrel
  class Lifecycle
    # What other rules would make of everybody: people per state under the policy of a question and under the rules, and
    # from which state to which they would change.
    class PolicyEffect
      # Whom a policy is not about.
      OUTSIDE = "outside"
      STATES = [*Lifecycle::STATES, OUTSIDE].freeze

      # @param evaluator [Audience::Evaluator] under the policy in force
      # @param rules [Policy]
      def initialize(evaluator, rules)
        @evaluator = evaluator
        @rules = rules
      end

      # @return [Hash] plain JSON: `table` (people per state now, in rows, and after, in columns, both as `states`), its
      #   sums `before` and `after`, and `changed`
      def to_h
        people = pairs
        table = STATES.map { |before| STATES.map { |after| people.fetch([before, after], 0) } }
        { states: STATES, table: table, before: table.map(&:sum), after: table.transpose.map(&:sum),
          changed: people.sum { |(before, after), count| before == after ? 0 : count } }
      end

      private

      def pairs
        before, after = [nil, @rules].map { |policy| @evaluator.states(@evaluator.as_of, policy)["state"] }
        frame = Polars::DataFrame.new([before.alias("before"), after.alias("after")])
                                 .filter(@evaluator.seen(@evaluator.as_of))
        named = %w[before after].map { |side| Polars.col(side).fill_null(OUTSIDE).alias(side) }
        frame.lazy.select(named).group_by(%w[before after]).agg([Polars.len.alias("n")]).collect.rows
             .to_h { |one, other, count| [[one, other], count] }
      end
    end
  end
end
