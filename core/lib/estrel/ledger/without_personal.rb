# frozen_string_literal: true

require "delegate"

module Estrel
  class Ledger
    # A generation whose catalogue knows some properties and attributes no longer, for whoever must not ask about them.
    # Every question is checked against the catalogue, so none can filter, split, search or order by them, or show them.
    # Everything else, remembered results included, is the generation's own.
    class WithoutPersonal < SimpleDelegator
      include Readable

      # @return [Catalogue]
      attr_reader :catalogue

      # @param generation [Generation]
      # @param properties [Hash{String => Array<String>}] per event type, as stored
      # @param attributes [Array<String>]
      def initialize(generation, properties, attributes)
        super(generation)
        @catalogue = generation.catalogue.without(properties, attributes)
        @reference = [generation.manifest_name, [[:without_personal, properties, attributes]]]
        @known = nil
        @parts = {}
      end

      # @return [Array(String, Array)] see {Generation#reference}
      attr_reader :reference

      # @return [Timeline] see {Readable#timeline}
      def timeline = __getobj__.timeline

      # @param count [Integer]
      # @return [Array<WithoutPersonal, Slice>] see {Generation#parts}
      def parts(count) = count == 1 ? [self] : @parts[count] ||= Slice.cut(self, count)

      # @param date [Date]
      # @return [ReceivedBy] see {Generation#received_by}
      def received_by(date)
        @known = ReceivedBy.new(self, date) unless @known&.date == date
        @known
      end
    end
  end
end
