# frozen_string_literal: true

module Estrel
  module Audience
    # What events are told apart by: one of their own properties. Gives every event one value as text, or none, and for
    # a value the filters that find its events. Frozen.
    class EventSplit
      # @return [String] the property
      attr_reader :property

      # @param property [String]
      # @param selections [Array<Selection>] of the events that are told apart
      # @param catalogue [Catalogue]
      # @raise [Invalid]
      def initialize(property, selections, catalogue)
        @property = property.dup.freeze
        types = selections.flat_map { |selection| selection.types(catalogue) }.uniq
        @types = types.filter_map { |type| type.properties[property]&.type }.uniq.freeze
        raise Invalid, [{ place: "", message: unknown(types, catalogue) }] if @types.empty?

        @types.each { |type| AsText.check(type) }
        @field = catalogue.names.property_field(property, types.map(&:name))
        freeze
      end

      # @return [Object] names the split completely
      def key = ["event", property]

      # @param type [Catalogue::EventType]
      # @param calendar [Calendar]
      # @return [Polars::Expr] the value of each event of the type
      def of(type, calendar)
        field = type.properties[property] or return Polars.lit(nil).cast(Polars::String)
        AsText.of(Polars.col(Ledger::Layout.property(property)), field.type, calendar)
      end

      # @param value [String]
      # @return [String] what it is called, with its unit
      def said(value) = Names.said(@field, number? ? Float(value) : value)

      # @param kind [Symbol] :value, :other or :not_set
      # @param value [String, nil] of the group, where it has one
      # @param named [Array<String>] the values that have groups of their own
      # @return [Array<Hash>] filters, as JSON, that find the events of a group
      def filters(kind, value, named)
        case kind
        when :value then [compared("is", value)]
        when :other then [{ "property" => property, "compare" => "is_set" }, *named.map do |one|
          compared("is_not", one)
        end]
        else [{ "property" => property, "compare" => "is_not_set" }]
        end
      end

      private

      def number? = @types == ["number"]

      # Values of properties that several event types have with different types are compared as those of the first.
      def compared(how, value)
        { "property" => property, "compare" => how, "value" => AsText.typed(value, @types.first) }
      end

      def unknown(types, catalogue)
        names = types.map { |type| catalogue.names.event(type.name) }
        "there is no property #{property.inspect} of #{English.either(names)}"
      end
    end
  end
end
