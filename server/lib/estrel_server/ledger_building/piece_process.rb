# frozen_string_literal: true

require "socket"

module EstrelServer
  module LedgerBuilding
    # A process that writes pieces of a ledger for the one that builds it, which it is told by, see {PieceProcesses}. It
    # reads the store by itself, from a snapshot that holds the same as that of the others.
    class PieceProcess
      # @param io [IO] to whoever has started it
      # @param settings [Settings]
      def initialize(io = UNIXSocket.for_fd($stdin.fileno), settings = EstrelServer.settings)
        @io = io
        @settings = settings
      end

      # Does what it is told until nobody tells it any more.
      #
      # @return [void]
      def run
        EstrelServer.eager_load
        Framing.write(@io, :ready)
        while (word, *given = Framing.read(@io))
          Framing.write(@io, word == :open ? Snapshot.begin.first : write(*given))
        end
      rescue Errno::EPIPE
        nil # whoever has started it is gone
      end

      private

      # @param copy [PieceCopy]
      # @return [Array(Estrel::Ledger::Manifest::Piece, Hash, PieceCopy::Written)] with size and checksum of its files
      def write(copy, range, piece)
        copy.put_to(Estrel::Ledger.new(@settings.ledger_directory), Dump.new(@settings))
        written = copy.write(range, piece)
        [*copy.writer.last_piece, written]
      ensure
        GC.start # Ruby does not see the memory behind what has been written
      end
    end
  end
end
