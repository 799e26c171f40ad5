# frozen_string_literal: true

module Estrel
  module Analyses
    # Asks a ledger for something that adds up over people. Of one with a tail (see {Ledger::WithTail}) its base is
    # asked, which says the same from one refresh to the next, and what it says of the people touched is made up for,
    # wherever that is exact.
    module Renewal
      module_function

      # @param workspace [Workspace]
      # @param of_few [#call] given an {Audience::Evaluator} of some people, says what is asked of these
      # @yieldparam workspace [Workspace] this one, or one of the base
      # @yieldreturn [Object] what is asked, of all, for {Sum}
      # @return [Object]
      def ask(workspace, of_few)
        ledger = workspace.ledger
        return yield(workspace) unless ledger.is_a?(Ledger::WithTail)

        outdated, renewed = [ledger.outdated, ledger.tail].map { |few| of_few.call(workspace.evaluator(few)) }
        return yield(workspace) unless Sum.exact?(outdated)

        whole = yield(workspace.of(ledger.base))
        Sum.exact?(whole) ? Sum.renewed(whole, outdated, renewed) : yield(workspace)
      end
    end
  end
end
