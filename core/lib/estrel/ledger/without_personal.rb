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
        @left_out = [properties, attributes]
        @known = nil
        @parts = {}
      end

      # @return [Array(String, Array)] see {Generation#reference}
      def reference = [manifest_name, [[:without_personal, *@left_out]]]

      # @return [Range<Integer>, nil] see {Readable#range}
      def range = __getobj__.range

      # @return [Integer] how many profiles there are
      def base_size = __getobj__.base_size

      # @return [Array<WithoutPersonal>] see {Generation#pieces}
      def pieces
        @pieces ||= if __getobj__.pieces.one? then [self]
                    else __getobj__.pieces.map { |piece| WithoutPersonal.new(piece, *@left_out) }
                    end
      end

      # @return [Timeline] see {Readable#timeline}
      def timeline = __getobj__.timeline

      # @return [Readable] see {Generation#part}
      def part(count, index)
        return self if count == 1

        @parts[[count, index]] ||= slice(__getobj__.part(count, index).range)
      end

      # @param date [Date]
      # @return [ReceivedBy] see {Generation#received_by}
      def received_by(date)
        @known = ReceivedBy.new(self, date) unless @known&.date == date
        @known
      end
    end
  end
end
