# frozen_string_literal: true

module Estrel
  module Audience
    module Clause
      # *attribute*: the value an attribute had at the end of the as-of date, compared. Frozen.
      class Attribute
        # @return [String] name of the attribute
        attr_reader :name
        # @return [Comparison]
        attr_reader :comparison

        def initialize(name, comparison)
          @name = name.dup.freeze
          @comparison = comparison
          freeze
        end

        # @param evaluator [Evaluator]
        # @return [Polars::Series] booleans over the ledger's profiles
        def mask(evaluator)
          values = evaluator.attribute_values(name, comparison.type)
          values.select([comparison.expression(Polars.col("value"), evaluator.calendar).alias("mask")])["mask"]
        end

        # @return [Hash] plain JSON
        def to_h = { "attribute" => { "name" => name, **comparison.to_h } }
      end
    end
  end
end
