# frozen_string_literal: true

module Estrel
  module Audience
    class Condition
      # `not`: everybody the inner condition leaves out. Frozen.
      class Negation < Condition
        def self.schema(_kind) = Schema.reference("Condition")

        def self.read(body, place, reading, _kind) = new(reading.condition(body, place))

        # @return [Object] the condition turned round
        attr_reader :condition

        def initialize(condition)
          @condition = condition
          freeze
        end

        # @param evaluator [Evaluator]
        # @return [Polars::Series] booleans over the ledger's profiles
        def mask(evaluator) = evaluator.invert(evaluator.mask(condition))

        # @return [Object] names what is computed completely
        def key = ["not", condition.key]

        # @return [Hash] plain JSON
        def to_h = { "not" => condition.to_h }

        def branches = [["not", condition]]

        def parts(words) = [words.plain("for whom this does not hold:")]

        def text(words)
          return condition.condition.text(words) if condition.is_a?(Negation)

          said = condition.denied(words)
          said ? said.map { |part| part[:text] }.join(" ") : "except those #{condition.text(words)}"
        end
      end
    end
  end
end
