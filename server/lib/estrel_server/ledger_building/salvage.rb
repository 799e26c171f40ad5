# frozen_string_literal: true

module EstrelServer
  module LedgerBuilding
    # Reads rows of the store of which some may be unreadable: where all of them together cannot be read, their halves
    # are, down to the single rows at fault. Those are set aside with the reason, and the rest goes on.
    class Salvage
      # Raised where other rows came out than went in.
      class Mismatch < Error; end
      UNREADABLE = [Polars::Error, Mismatch, ArgumentError, EncodingError, TypeError].freeze

      # @return [Array<Array(Polars::DataFrame, String)>] rows set aside, one each, with the reason
      attr_reader :set_aside

      def initialize
        @set_aside = []
      end

      # @param rows [Polars::DataFrame] at least one
      # @yieldparam rows [Polars::DataFrame]
      # @yieldreturn [Polars::DataFrame] what was read of them, as many rows
      # @return [Polars::DataFrame, nil] what could be read; nil where nothing could
      def read(rows, &)
        found = yield(rows)
        raise Mismatch, "the row cannot be read as one" unless found.height == rows.height

        found
      rescue *UNREADABLE => e
        rows.height == 1 ? leave(rows, e) : halves(rows, &)
      end

      private

      def halves(rows, &block)
        middle = rows.height / 2
        parts = [rows.slice(0, middle), rows.slice(middle, rows.height - middle)].filter_map do |half|
          read(half, &block)
        end
        parts.empty? ? nil : Polars.concat(parts)
      end

      def leave(row, error)
        @set_aside << [row, error.message.lines.first.to_s.strip[0, 200]]
        nil
      end
    end
  end
end
