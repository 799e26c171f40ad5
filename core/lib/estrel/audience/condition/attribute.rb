# frozen_string_literal: true

module Estrel
  module Audience
    class Condition
      # *attribute*: the value an attribute had at the end of the as-of date, compared; or *was ever*: any of the values
      # it has had by then. Somebody who never had a value counts as having the missing one. Frozen.
      class Attribute < Condition
        def self.schema(_kind)
          Schema.object({ "name" => Schema.reference("Name"), **Schema::COMPARISON, "ever" => { "type" => "boolean" } },
                        required: %w[name compare])
        end

        def self.read(body, place, reading, _kind)
          field = reading.attribute(body, place) or return
          comparison = reading.fields.comparison(body, field, place)
          comparison && new(field.name, comparison, ever: body["ever"] == true)
        end

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

        # @return [Hash] plain JSON
        def to_h = { "attribute" => { "name" => name, **comparison.to_h, "ever" => ever? || nil }.compact }

        def parts(words)
          [words.plain("whose"), words.attribute(name, "attribute"),
           *words.comparison(comparison, "who", "attribute", { attribute: name }, ever: ever?)]
        end

        def denied(words)
          opposite = comparison.opposite
          opposite && !ever? ? Attribute.new(name, opposite).parts(words) : nil
        end

        def evidence(evaluator)
          rows = Facts.steps(evaluator, name, comparison.type)
          told = ever? ? rows.last(Facts::MOST).reverse : rows.last(1)
          called = evaluator.names.attribute(name)
          { found: "#{called} #{found(rows)}",
            facts: told.map { |row| { what: "#{called} became #{Facts.said(row["text"])}", at: row["occurred_at"] } } }
        end

        private

        def ever(evaluator)
          values = evaluator.attribute_history(name, comparison.type)
          fitting = values.filter(comparison.expression(Polars.col("value"), evaluator.calendar))["profile_id"]
          mask = evaluator.membership(fitting)
          return mask unless Comparison::NEGATIVE.include?(comparison.operator)

          mask | evaluator.invert(evaluator.membership(values["profile_id"]))
        end

        def found(rows)
          return "was never set" if rows.empty?

          ever? ? "has had #{Facts.number(rows.size, "value")}" : "is #{Facts.said(rows.last["text"])}"
        end
      end
    end
  end
end
