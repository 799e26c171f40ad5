# frozen_string_literal: true

module Estrel
  module Audience
    module Clause
      # *attribute*: the value an attribute had at the end of the as-of date, compared; or *was ever*: any of the values
      # it has had by then. Somebody who never had a value counts as having the missing one. Frozen.
      class Attribute
        # @return [String] name of the attribute
        attr_reader :name
        # @return [Comparison]
        attr_reader :comparison

        # @param name [String]
        # @param comparison [Comparison]
        # @param ever [Boolean] whether any earlier value will do
        def initialize(name, comparison, ever: false)
          @name = name.dup.freeze
          @comparison = comparison
          @ever = ever
          freeze
        end

        # @return [Boolean] "was ever"
        def ever? = @ever

        # @param evaluator [Evaluator]
        # @return [Polars::Series] booleans over the ledger's profiles
        def mask(evaluator)
          return ever(evaluator) if ever?

          values = evaluator.attribute_values(name, comparison.type)
          values.select([comparison.expression(Polars.col("value"), evaluator.calendar).alias("mask")])["mask"]
        end

        # @return [Object] names what is computed completely
        def key = to_h

        # @return [Hash] plain JSON
        def to_h = { "attribute" => { "name" => name, **comparison.to_h, "ever" => ever? || nil }.compact }

        private

        def ever(evaluator)
          values = evaluator.attribute_history(name, comparison.type)
          fitting = values.filter(comparison.expression(Polars.col("value"), evaluator.calendar))["profile_id"]
          mask = evaluator.membership(fitting)
          return mask unless Comparison::NEGATIVE.include?(comparison.operator)

          mask | evaluator.invert(evaluator.membership(values["profile_id"]))
        end
      end
    end
  end
end
