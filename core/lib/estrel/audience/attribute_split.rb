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
        raise Invalid, [{ place: "", message: "there is no attribute #{attribute.inspect}" }] unless known

        read("attribute", attribute, [known.type], catalogue.names.attribute_field(attribute))
      end

      # @param _type [Catalogue::EventType]
      # @param calendar [Calendar]
      # @return [Polars::Expr] the value at each event of the type
      def of(_type, calendar)
        value = Ledger::Layout.typed(Polars.col(Ledger::Layout.standing(name)), types.first)
        AsText.of(value, types.first, calendar)
      end

      # @return [Array<String>] properties that are looked at: none
      def properties = []

      # @return [Array<String>] what has to stand beside the events, see {Ledger::Readable#beside}
      def beside = [Ledger::Layout.standing(name)]
    end
  end
end
