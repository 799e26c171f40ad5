# frozen_string_literal: true

module Estrel
  module Audience
    # What people are told apart by: an attribute, a property of their events, their state or their profile type.
    #
    # Gives every person one value as text, or none, and for a value the condition that finds the people who have it. A
    # time counts as the day it falls on. Frozen.
    class Split
      # @param json [Hash] one of `{"attribute" => name}`, to which `"as_of" => true` may be added,
      #   `{"property" => {"event", "of", "take", "window"}}` with a take of {Measure::VALUES}, `{"state" => true}`,
      #   `{"profile_type" => true}`; or `{"both" => [one, other]}`
      # @param catalogue [Catalogue]
      # @param stored [Analyses::Stored, nil] where groups of one's own are found, `{"grouping" => number}`
      # @return [Split, PairedSplit, OwnSplit]
      # @raise [Invalid]
      def self.parse(json, catalogue, stored = nil)
        kind, body = one_thing(json)
        case kind
        when "state" then new("state")
        when "profile_type" then new("profile_type")
        when "both" then PairedSplit.new(body.map { |one| parse(one, catalogue, stored) })
        when "grouping" then (stored || Analyses::Stored.new).grouping(body, catalogue)
        else
          condition = Definition.parse(probe(kind, body), catalogue: catalogue).root
          field = kind == "attribute" ? condition.comparison : condition.measure&.comparison
          AsText.check(field.type)
          new(kind, condition: condition, type: field.type, field: told_apart(condition, catalogue.names),
                    as_of: json["as_of"] == true)
        end
      end

      def self.one_thing(json)
        kinds = json.except("as_of")
        unless kinds.one? && (!json.key?("as_of") || kinds.key?("attribute"))
          raise Invalid,
                [{ place: "", message: "choose one split; only attributes can be as of a date" }]
        end

        kinds.first
      end
      private_class_method :one_thing

      # A definition that reads everything the split needs, so that it is checked as definitions are.
      def self.probe(kind, body)
        case kind
        when "attribute" then { "attribute" => { "name" => body, "compare" => "is_set" } }
        when "property"
          take = body["take"]
          unless Measure::VALUES.include?(take)
            raise Invalid, [{ place: "take", message: "choose a value: #{English.either(Measure::VALUES)}" }]
          end

          { "did" => { "event" => body["event"], "window" => body["window"] || { "ever" => true },
                       "measure" => { "of" => body["of"], "take" => take, "compare" => "is_set" } } }
        else raise Invalid, [{ place: "", message: "split by attribute, property, state or profile type" }]
        end
      end
      private_class_method :probe

      def self.told_apart(condition, names)
        return names.attribute_field(condition.name) if condition.is_a?(Condition::Attribute)

        names.property_field(condition.measure.property, condition.selection.events)
      end
      private_class_method :told_apart

      # @return [String] "attribute", "property", "state" or "profile_type"
      attr_reader :by

      # @param by [String]
      # @param condition [Condition, nil] that reads all it needs
      # @param type [String, nil] of its values
      # @param field [Catalogue::Field, nil] whose values they are
      # @param as_of [Boolean] whether an attribute's value on the as-of date is asked for, also where others are known
      def initialize(by, condition: nil, type: nil, field: nil, as_of: false)
        @by = by
        @as_of = as_of
        @condition = condition
        @type = type
        @field = field
        freeze
      end

      # @return [Object] names the split completely
      def key = [by, @condition&.key]

      # @return [Array<Split>] each thing that people are told apart by
      def parts = [self]

      # @return [Boolean] whether what is known on the as-of date is asked for, whatever it was before
      def as_of? = @as_of

      # @return [Boolean] whether it is an attribute that is looked at when something happened, where that is known
      def at_the_time? = by == "attribute" && !as_of?

      # @return [Array<String>, nil] the values in the order in which they are told; nil for the most frequent first
      def order = nil

      # @return [Boolean] whether a person may have had another value before
      def changes? = by != "profile_type"

      # @return [Array<String>] the attributes it goes by, whose values before their record begins are not known
      def attributes = by == "attribute" ? [@condition.name] : []

      # @param evaluator [Evaluator]
      # @return [Polars::Series] "value": text, one per profile; null where it is not set
      def values(evaluator)
        case by
        when "state" then evaluator.states(evaluator.as_of)["state"].alias("value")
        when "profile_type" then evaluator.profile_types.alias("value")
        when "attribute" then text(evaluator.attribute_values(@condition.name, @type), "value", evaluator)
        else property_values(evaluator)
        end
      end

      # @param value [String] of {#values}
      # @return [String] what it is called, with its unit
      def said(value)
        return English.state(value) if by == "state"

        Names.said(@field, @type == "number" ? Float(value) : value)
      end

      # @param value [String, nil] of {#values}
      # @return [Hash] the condition, as JSON, of everybody with the value; with nil of everybody without any
      def condition(value)
        case by
        when "state" then { "lifecycle" => { "is" => [value] } }
        when "profile_type" then { "profile_type" => { "is" => [value] } }
        else compared(value.nil? ? { "compare" => "is_not_set" } : { "compare" => "is",
                                                                     "value" => AsText.typed(value, @type) })
        end
      end

      # @param values [Array<String>]
      # @return [Hash] the condition, as JSON, of everybody with another value than these
      def other(values)
        set = @condition ? [compared("compare" => "is_set")] : []
        { "all" => [*set, *values.map { |value| { "not" => condition(value) } }] }
      end

      # What a group of people is called, and the condition that finds them.
      #
      # @param kind [Symbol] :value, :other or :not_set
      # @param value [String, nil] of the group, where it has one
      # @param named [Array<String>] the values that have groups of their own
      # @return [Hash{Symbol => Object}] `kind`, `value`, `people_in` as JSON
      def group(kind, value, named)
        { kind: kind.to_s, value: value, people_in: kind == :other ? other(named) : condition(value) }
      end

      private

      def property_values(evaluator)
        measure = @condition.measure
        rows = @condition.selection.rows(evaluator, @condition.window, property: measure.property)
        taken = measure.taken(rows)
        all = Polars::DataFrame.new([evaluator.ids]).join(taken, on: "profile_id", how: "left")
        text(all, "m", evaluator)
      end

      def text(frame, column, evaluator)
        frame.select([AsText.of(Polars.col(column), @type, evaluator.calendar).alias("value")])["value"]
      end

      def compared(comparison)
        json = @condition.to_h
        kind, body = json.first
        return { kind => { "name" => body["name"], **comparison } } if kind == "attribute"

        { kind => body.merge("measure" => body["measure"].slice("of", "take").merge(comparison)) }
      end
    end
  end
end
