# frozen_string_literal: true

module Estrel
  class Ledger
    # A ledger that is read by way of another one, its `origin`, and lies in the same pieces; `of_piece` makes the same
    # of one of them.
    module Derived
      include Readable

      # @return [Range<Integer>, nil] see {Readable#range}
      def range = origin.range

      # @return [Array<Readable>] see {Generation#pieces}
      def pieces
        @pieces ||= origin.pieces.one? ? [self] : origin.pieces.map { |piece| of_piece(piece) }
      end

      # @return [Readable] see {Generation#part}
      def part(count, index)
        return self if count == 1

        (@parts ||= {})[[count, index]] ||= slice(origin.part(count, index).range)
      end
    end
  end
end
