# frozen_string_literal: true

module Estrel
  module Audience
    # A condition on what an attribute of the person was when the event happened: the newest value by then, one set at
    # the same instant included. Frozen.
    class AttributeFilter
      # @return [String]
      attr_reader :attribute
      # @return [Comparison]
      attr_reader :comparison

      def initialize(attribute, comparison)
        @attribute = attribute.dup.freeze
        @comparison = comparison
        freeze
      end

      # @param _type [Catalogue::EventType]
      # @param calendar [Calendar]
      # @return [Polars::Expr] boolean, never null, over events with the columns of {#beside}
      def expression(_type, calendar)
        value = Ledger::Layout.typed(Polars.col(Ledger::Layout.standing(attribute)), comparison.type)
        comparison.expression(value, calendar)
      end

      # @return [Array<String>] properties that are looked at: none
      def properties = []

      # @return [Array<String>] what has to stand beside the events, see {Ledger::Readable#beside}
      def beside = [Ledger::Layout.standing(attribute)]

      # @return [Hash] plain JSON
      def to_h = { "attribute" => attribute, **comparison.to_h }
    end
  end
end
