# frozen_string_literal: true

module Estrel
  module Analyses
    # Asks the parts of the ledger one after the other, in this process.
    class InTurn
      # @param parts [Array<Audience::Evaluator>]
      # @param budget [Budget] asked before each part
      def initialize(parts, budget = Budget::NONE)
        @parts = parts
        @budget = budget
      end

      # @param analysis [Analysis]
      # @param found [Array<Object>] what its rounds so far have found
      # @yield [done, all] before each part: how many there were before it, and in all
      # @return [Array<Object>] what each part has found
      # @raise [Budget::Exceeded]
      def ask(analysis, found)
        @parts.each_with_index.map do |part, index|
          @budget.check
          yield(index, @parts.size)
          analysis.asked_of(part, found)
        end
      end
    end
  end
end
