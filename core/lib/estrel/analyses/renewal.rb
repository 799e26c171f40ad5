# frozen_string_literal: true

module Estrel
  module Analyses
    # Asks a part of a ledger for something that adds up over people. Of a ledger with a tail (see {Ledger::WithTail}),
    # what the base says is made up for, where that is exact; it is the same from one refresh to the next.
    module Renewal
      module_function

      # @param part [Audience::Evaluator]
      # @param of_base [#call, nil] given the evaluator of a base, says what is remembered of it
      # @yieldparam evaluator [Audience::Evaluator]
      # @yieldreturn [Object] for {Sum}
      # @return [Object]
      def ask(part, of_base = nil)
        ledger = part.ledger
        return yield(part) unless ledger.is_a?(Ledger::WithTail)

        outdated, renewed = [ledger.outdated, ledger.tail].map { |few| yield(part.of(few)) }
        return yield(part) unless Sum.exact?(outdated)

        base = part.of(ledger.base)
        Sum.renewed(of_base ? of_base.call(base) : yield(base), outdated, renewed)
      end
    end
  end
end
