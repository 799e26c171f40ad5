# frozen_string_literal: true

module Estrel
  module Audience
    # How far one person has come through the steps of an order, and what followed.
    class OrderEvidence
      # @param evaluator [Evaluator] over the ledger's part of one person
      def initialize(evaluator)
        @evaluator = evaluator
      end

      # @param clause [Clause::Order]
      # @return [Hash{Symbol => Object}] as in {Evidence#of}
      def of(clause)
        ends = clause.reached_steps(@evaluator)
        steps = ends.take_while { |rows| rows.height.positive? }
        found = "#{steps.size} of #{clause.steps.size} steps"
        return { found: found, nearness: steps.size.fdiv(clause.steps.size), facts: facts(steps) } unless
          steps.size == clause.steps.size && clause.absence

        { found: "#{found}; #{waited(clause)}", nearness: 0.9, facts: facts(steps) }
      end

      private

      # The newest event of each step.
      def facts(steps)
        steps.each_with_index.map { |rows, index| { what: "step #{index + 1}", at: rows["occurred_at"].max } }.reverse
      end

      def waited(clause)
        return "the time to wait has not passed" if clause.undecided(@evaluator).any?

        clause.mask(@evaluator).any? ? "not followed in time" : "followed each time"
      end
    end
  end
end
