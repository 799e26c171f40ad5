# frozen_string_literal: true

module Estrel
  module Audience
    # What events are told apart by: one of their own properties. Gives every event one value as text, or none, and for
    # a value the filters that find its events. Frozen.
    class EventSplit
      # @return [String] of the property
      attr_reader :name

      # @param property [String]
      # @param selections [Array<Selection>] of the events that are told apart
      # @param catalogue [Catalogue]
      # @raise [Invalid]
      def initialize(property, selections, catalogue)
        events = selections.flat_map { |selection| selection.types(catalogue) }.uniq
        types = events.filter_map { |type| type.properties[property]&.type }.uniq
        raise Invalid, [{ place: "", message: unknown(property, events, catalogue) }] if types.empty?

        read("property", property, types, catalogue.names.property_field(property, events.map(&:name)))
      end

      # @return [Object] names the split completely
      def key = ["event", kind, name]

      # @return [Boolean] whether it is something of the people, which all they do at a time has in common
      def of_people? = false

      # @return [nil] see {Split#order}
      def order = nil

      # @param type [Catalogue::EventType]
      # @param calendar [Calendar]
      # @return [Polars::Expr] the value of each event of the type
      def of(type, calendar)
        field = type.properties[name] or return Polars.lit(nil).cast(Polars::String)
        AsText.of(Polars.col(Ledger::Layout.property(name)), field.type, calendar)
      end

      # @return [Array<String>] properties that are looked at
      def properties = [name]

      # @return [Array<String>] what has to stand beside the events, see {Ledger::Readable#beside}: nothing
      def beside = []

      # @param value [String]
      # @return [String] what it is called, with its unit
      def said(value) = Names.said(@field, types == ["number"] ? Float(value) : value)

      # @param group [Symbol] :value, :other or :not_set
      # @param value [String, nil] of the group, where it has one
      # @param named [Array<String>] the values that have groups of their own
      # @return [Array<Hash>] filters, as JSON, that find the events of a group
      def filters(group, value, named)
        case group
        when :value then [compared("is", value)]
        when :other then [{ kind => name, "compare" => "is_set" }, *named.map { |one| unlike(one) }]
        else [{ kind => name, "compare" => "is_not_set" }]
        end
      end

      # @param value [String, nil]
      # @return [Hash] the filter, as JSON, that finds the events with another value
      def unlike(value) = value.nil? ? { kind => name, "compare" => "is_set" } : compared("is_not", value)

      private

      attr_reader :kind, :types

      def read(kind, name, types, field)
        types.each { |type| AsText.check(type) }
        @kind = kind
        @name = name.dup.freeze
        @types = types.freeze
        @field = field
        freeze
      end

      # Values of properties that several event types have with different types are compared as those of the first.
      def compared(how, value)
        { kind => name, "compare" => how, "value" => AsText.typed(value, types.first) }
      end

      def unknown(property, types, catalogue)
        names = types.map { |type| catalogue.names.event(type.name) }
        "there is no property #{property.inspect} of #{English.either(names)}"
      end
    end
  end
end
