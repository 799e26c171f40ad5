# frozen_string_literal: true

require "delegate"

module Estrel
  class Ledger
    # A generation whose catalogue knows some properties and attributes no longer, for whoever must not ask about them.
    # Every question is checked against the catalogue, so none can filter, split, search or order by them, or show them.
    # Everything else, remembered results included, is the generation's own.
    class WithoutPersonal < SimpleDelegator
      include Derived

      # @return [Catalogue]
      attr_reader :catalogue

      # @param generation [Generation]
      # @param properties [Hash{String => Array<String>}] per event type, as stored
      # @param attributes [Array<String>]
      def initialize(generation, properties, attributes)
        super(generation)
        @catalogue = generation.catalogue.without(properties, attributes)
        @left_out = [properties, attributes]
        @known = nil
      end

      # @return [Array(String, Array)] see {Generation#reference}
      def reference = [manifest_name, [[:without_personal, *@left_out]]]

      # @return [Integer] how many profiles there are
      def base_size = __getobj__.base_size

      # @return [Timeline] see {Readable#timeline}
      def timeline = __getobj__.timeline

      # @param date [Date]
      # @return [ReceivedBy] see {Generation#received_by}
      def received_by(date)
        @known = ReceivedBy.new(self, date) unless @known&.date == date
        @known
      end

      private

      def origin = __getobj__

      def of_piece(piece) = WithoutPersonal.new(piece, *@left_out)
    end
  end
end
