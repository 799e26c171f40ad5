# frozen_string_literal: true

module Estrel
  module Audience
    # A condition on a property of an event. On an event type that has no such property its value is missing. Frozen.
    class Filter
      # @return [String]
      attr_reader :property
      # @return [Comparison]
      attr_reader :comparison

      def initialize(property, comparison)
        @property = property.dup.freeze
        @comparison = comparison
        freeze
      end

      # @param type [Catalogue::EventType]
      # @param calendar [Calendar]
      # @return [Polars::Expr] boolean, never null
      def expression(type, calendar)
        return Polars.lit(comparison.fits_missing?) unless type.properties.key?(property)

        comparison.expression(Polars.col(Ledger::Layout.property(property)), calendar)
      end

      # @return [Array<String>] the property that is looked at
      def properties = [property]

      # @return [Array<String>] what has to stand beside the events, see {Ledger::Readable#beside}: nothing
      def beside = []

      # @return [Hash] plain JSON
      def to_h = { "property" => property, **comparison.to_h }
    end
  end
end
