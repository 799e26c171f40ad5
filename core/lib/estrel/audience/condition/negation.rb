# frozen_string_literal: true

module Estrel
  module Audience
    class Condition
      # `not`: everybody the inner clause leaves out. Frozen.
      class Negation < Condition
        def self.schema(_kind) = Schema.reference("Condition")

        def self.read(body, place, reading, _kind) = new(reading.condition(body, place))

        # @return [Object] the clause turned round
        attr_reader :clause

        def initialize(clause)
          @clause = clause
          freeze
        end

        # @param evaluator [Evaluator]
        # @return [Polars::Series] booleans over the ledger's profiles
        def mask(evaluator) = evaluator.invert(evaluator.mask(clause))

        # @return [Object] names what is computed completely
        def key = ["not", clause.key]

        # @return [Hash] plain JSON
        def to_h = { "not" => clause.to_h }

        def branches = [["not", clause]]

        def parts(words) = [words.plain("for whom this does not hold:")]
      end
    end
  end
end
