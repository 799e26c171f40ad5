# frozen_string_literal: true

module Estrel
  module Audience
    # What events are told apart by: what an attribute of the person was when they happened. Knows all that an
    # {EventSplit} by a property does. Frozen.
    class AttributeSplit < EventSplit
      # @param attribute [String]
      # @param catalogue [Catalogue]
      # @raise [Invalid]
      def initialize(attribute, catalogue) # rubocop:disable Lint/MissingSuper -- it reads another field
        known = catalogue.attributes[attribute]
        raise Invalid, [{ place: "", message: "attribute #{attribute.inspect} does not exist" }] unless known

        read("attribute", attribute, [known.type], catalogue.names.attribute_field(attribute))
      end

      # @param _type [Catalogue::EventType]
      # @param calendar [Calendar]
      # @return [Polars::Expr] the value at each event of the type
      def of(_type, calendar)
        value = Ledger::Layout.typed(Polars.col(Ledger::Layout.standing(name)), types.first)
        AsText.of(value, types.first, calendar)
      end

      # @param rows [Polars::DataFrame] `profile_id` and `occurred_at`, sorted by both
      # @param ledger [Ledger::Readable]
      # @return [Coded] the value at each of them
      def at(rows, ledger)
        texts, from = ledger.cache.fetch([:attribute_runs, name]) do
          values = AttributeValues.new(ledger).history(name)
          known, codes = Coded.numbers(told(values["value"], ledger))
          [known, ledger.timeline.runs(values.with_columns([codes.alias("code")]))]
        end
        Coded.new(ledger.timeline.holding(rows, from), texts)
      end

      # @return [Boolean] see {EventSplit#of_people?}
      def of_people? = true

      # @return [Array<String>] properties that are looked at: none
      def properties = []

      # @return [Array<String>] what has to stand beside the events, see {Ledger::Readable#beside}
      def beside = [Ledger::Layout.standing(name)]

      private

      def told(values, ledger)
        values.alias(Ledger::Layout.standing(name)).to_frame.select([of(nil, ledger.calendar).alias("told")])["told"]
      end
    end
  end
end
