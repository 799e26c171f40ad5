# frozen_string_literal: true

module Estrel
  module Audience
    # Conditions on one event, all or any of which must hold. Frozen.
    class FilterGroup
      # @return [String] "all" or "any"
      attr_reader :kind
      # @return [Array<Filter, AttributeFilter, SoFarFilter, FilterGroup>]
      attr_reader :filters

      def initialize(kind, filters)
        @kind = kind
        @filters = filters.freeze
        freeze
      end

      # @param type [Catalogue::EventType]
      # @param calendar [Calendar]
      # @return [Polars::Expr] boolean, never null
      def expression(type, calendar)
        parts = filters.map { |filter| filter.expression(type, calendar) }
        parts.reduce(kind == "all" ? :& : :|) || Polars.lit(kind == "all")
      end

      # @return [Boolean]
      def empty? = filters.empty?

      # @return [Array<String>] the properties that are looked at
      def properties = filters.flat_map(&:properties)

      # @return [Array<String>] what has to stand beside the events, see {Ledger::Readable#beside}
      def beside = filters.flat_map(&:beside).uniq

      # @return [Hash] plain JSON
      def to_h = { kind => filters.map(&:to_h) }
    end
  end
end
