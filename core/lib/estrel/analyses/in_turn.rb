# frozen_string_literal: true

module Estrel
  module Analyses
    # Asks the parts of the ledger one after the other, in this process.
    module InTurn
      module_function

      # @param analysis [Analysis]
      # @param found [Array<Object>] see {Analysis#carried}
      # @yield [done, all] before each part: how many there were before it, and in all
      # @return [Array<Object>] what each part has found
      # @raise [Budget::Exceeded]
      def ask(analysis, found)
        parts = analysis.workspace.parts
        parts.each_with_index.map do |part, index|
          part.budget.check
          yield(index, parts.size)
          analysis.asked_of(part, found)
        end
      end
    end
  end
end
