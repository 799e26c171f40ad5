# frozen_string_literal: true

require "socket"

module EstrelServer
  module LedgerBuilding
    # A process that reads events and writes pieces of a ledger for the one that builds it, which tells it what to do,
    # see {PieceProcesses}. It reads the store by itself, from a snapshot that holds the same as that of the others.
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
          Framing.write(@io, word == :open ? Snapshot.begin.first : public_send(word, *given))
          GC.start # Ruby does not see the memory behind what has been read and written
        end
      rescue Errno::EPIPE
        nil # whoever has started it is gone
      end

      # @param reading [EventReading]
      # @param ranges [Array<Array(Range, String)>] see {EventReading#read}
      # @return [EventReading::Found]
      def read(reading, ranges) = reading.put_to(Dump.new(@settings)).read(ranges)

      # @param copy [PieceCopy]
      # @param range [Range<Integer>] of profile ids
      # @param piece [Integer] its index
      # @return [Array(Estrel::Ledger::Manifest::Piece, Hash, PieceCopy::Written)] with size and checksum of its files
      def write(copy, range, piece)
        copy.put_to(Estrel::Ledger.new(@settings.ledger_directory), Dump.new(@settings))
        written = copy.write(range, piece)
        [*copy.writer.last_piece, written]
      end
    end
  end
end
