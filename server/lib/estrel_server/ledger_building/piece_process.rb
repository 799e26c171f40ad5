# frozen_string_literal: true

require "socket"

module EstrelServer
  module LedgerBuilding
    # A process that reads events and writes pieces of a ledger for the one that builds it, which tells it what to do,
    # see {PieceProcesses}. It reads the store by itself, from a snapshot that holds the same as that of the others.
    class PieceProcess
      ESTREL = File.join(ROOT, "bin/estrel")
      private_constant :ESTREL

      # @param workspace [String]
      # @param socket [UNIXSocket] by which it is told
      # @param words [Array<String>] of the command line besides
      # @return [Integer] its id
      def self.start(workspace, socket, *words)
        environment = workspace == Workspaces::FIRST ? {} : { "ESTREL_WORKSPACE" => workspace }
        Process.spawn(environment, ESTREL, "ledger", "piece", *words, in: socket)
      end

      # @param io [IO] to whoever has started it
      # @param settings [Settings]
      # @param lent [Boolean] whether it works for another machine, see {Parts::Lender}
      def initialize(io = UNIXSocket.for_fd($stdin.fileno), settings = EstrelServer.settings, lent: false)
        @io = io
        @settings = settings
        @lent = lent
        @ledger = Estrel::Ledger.new(settings.ledger_directory, held: lent ? settings.held : Estrel::Ledger::Held::ALL)
      end

      # Does what it is told until nobody tells it any more.
      #
      # @return [void]
      def run
        EstrelServer.eager_load(interface: false)
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
      # @return [Array(Estrel::Ledger::Manifest::Piece, Hash, PieceCopy::Written), nil] with size and checksum of its
      #   files; nil where what it is built on is not here, or has no place for it
      def write(copy, range, piece)
        copy.put_to(@ledger, @settings)
        copy.writer.move_to(@settings.written_directory) if @lent
        written = catch(:no_place) { copy.write(range, piece) } or return
        [*copy.writer.last_piece, written]
      rescue Estrel::Ledger::Missing => e
        Log.error("a piece of the ledger cannot be written here", e)
        nil
      end
    end
  end
end
