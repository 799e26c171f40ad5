# frozen_string_literal: true

module Estrel
  module Audience
    # A condition on how far the person had got by the event, that event included: the minutes spent in visits, or the
    # highest value of a number. Frozen.
    class SoFarFilter
      MINUTES = "minutes_spent"

      # @return [String, Hash{String => String}] {MINUTES}, or the `event` and `property` of which the highest counts
      attr_reader :so_far
      # @return [Comparison] with a number
      attr_reader :comparison

      def initialize(so_far, comparison)
        @so_far = so_far.dup.freeze
        @comparison = comparison
        freeze
      end

      # @param _type [Catalogue::EventType]
      # @param calendar [Calendar]
      # @return [Polars::Expr] boolean, never null, over events with the columns of {#beside}
      def expression(_type, calendar) = comparison.expression(Polars.col(column), calendar)

      # @return [Array<String>] properties that are looked at: none
      def properties = []

      # @return [Array<String>] what has to stand beside the events, see {Ledger::Readable#beside}
      def beside = [column]

      # @return [Boolean] whether it is about the time spent
      def minutes? = so_far == MINUTES

      # @return [Hash] plain JSON
      def to_h = { "so_far" => so_far, **comparison.to_h }

      private

      def column = minutes? ? Ledger::SoFar::MINUTES : Ledger::SoFar.highest(*so_far.values_at("event", "property"))
    end
  end
end
