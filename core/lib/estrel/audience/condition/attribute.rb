# frozen_string_literal: true

module Estrel
  module Audience
    class Condition
      # *attribute*: the value an attribute had at the end of the as-of date, or *on* an earlier one, compared; or *was
      # ever*: any of the values it has had by then. Somebody who never had a value counts as having the missing one.
      # Frozen.
      class Attribute < Condition
        def self.schema(_kind)
          Schema.object({ "name" => Schema.reference("Name"), **Schema::COMPARISON, "ever" => { "type" => "boolean" },
                          "on" => Schema.reference("Date") }, required: %w[name compare])
        end

        def self.read(body, place, reading, _kind)
          field = reading.attribute(body, place) or return
          comparison = reading.fields.comparison(body, field, place)
          on = body["on"] && reading.fields.day(body["on"], "#{place}.on")
          return if comparison.nil? || (body["on"] && on.nil?)
          return reading.fault("#{place}.on", "choose either a date or “at any time”, not both") if on && body["ever"]

          new(field.name, comparison, ever: body["ever"] == true, on: on)
        end

        # @return [String] name of the attribute
        attr_reader :name
        # @return [Comparison]
        attr_reader :comparison

        # @return [Date, nil] at whose end it is asked, of those seen by then; the as-of date where nil
        attr_reader :on

        # @param name [String]
        # @param comparison [Comparison]
        # @param ever [Boolean] whether any earlier value will do
        # @param on [Date, nil]
        def initialize(name, comparison, ever: false, on: nil)
          @name = name.dup.freeze
          @comparison = comparison
          @ever = ever
          @on = on
          freeze
        end

        # @return [Boolean] "was ever"
        def ever? = @ever

        # @param evaluator [Evaluator]
        # @return [Polars::Series] booleans over the ledger's profiles
        def mask(evaluator)
          return ever(evaluator) if ever?

          evaluator = at(evaluator)
          values = evaluator.attribute_values(name, comparison.type)
          mask = values.select([comparison.expression(Polars.col("value"), evaluator.calendar).alias("mask")])["mask"]
          on ? mask & evaluator.seen(evaluator.as_of) : mask
        end

        # @return [Hash] plain JSON
        def to_h
          { "attribute" => { "name" => name, **comparison.to_h, "ever" => ever? || nil, "on" => on&.iso8601 }.compact }
        end

        def parts(words)
          date = [*(words.part("as of #{English.date(on)}", "when", "on", "attribute") if on)]
          [words.plain("whose"), words.attribute(name, "attribute"), *date,
           *words.comparison(comparison, "who", "attribute", { attribute: name }, ever: ever?)]
        end

        def denied(words)
          opposite = comparison.opposite
          opposite && !ever? ? Attribute.new(name, opposite, on: on).parts(words) : nil
        end

        def evidence(evaluator)
          evaluator = at(evaluator)
          rows = Facts.steps(evaluator, name, comparison.type)
          told = ever? ? rows.last(Facts::MOST).reverse : rows.last(1)
          called = evaluator.names.attribute(name)
          { found: "#{called} #{found(rows)}",
            facts: told.map do |row|
              { what: "#{called} changed to " \
                      "#{Facts.said(row["text"])}", at: row["occurred_at"] }
            end }
        end

        private

        def at(evaluator) = on && on < evaluator.as_of ? evaluator.at(on) : evaluator

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
