# frozen_string_literal: true

require "socket"

module EstrelServer
  module LedgerBuilding
    # A {PieceProcess} as whoever builds the ledger has it: one of this machine, or one that another lends, see
    # {Parts::Borrowed}. One that has ended, or does not answer in order, is given up.
    class Helper
      # @param settings [Settings]
      # @return [Helper] of this machine
      def self.start(settings)
        here, there = UNIXSocket.pair
        pid = PieceProcess.start(settings.workspace, there)
        there.close
        new(here, pid)
      end

      # @param socket [UNIXSocket] by which it is told what to do
      # @param pid [Integer, nil] of this machine
      def initialize(socket, pid = nil)
        @socket = socket
        @pid = pid
      end

      # @param seconds [Numeric] that it has for starting
      # @return [Boolean]
      def ready?(seconds) = !@socket.wait_readable([seconds, 0].max).nil? && hear == :ready

      # @return [Boolean] whether it still is of use
      def there? = !@socket.closed?

      # Has it open a snapshot of the store.
      #
      # @return [void]
      def open = tell(:open)

      # @param marks [Hash{String => Integer}] of a snapshot here
      # @return [Boolean] whether the one that it has opened holds the same
      def opened?(marks) = hear == marks

      # @return [Boolean] whether what it reads can be made use of here
      def reads? = true

      # @param _place [Integer] of a task: which piece it is
      # @param _count [Integer] how many there are
      # @return [Boolean] whether it can do that
      def does?(_place, _count) = true

      # @param reading [EventReading]
      # @param ranges [Array<Array(Range, String)>] see {EventReading#read}
      # @return [EventReading::Found, nil] nil where it has been given up
      def read(reading, ranges) = ask(:read, reading, ranges)

      # @param copy [PieceCopy]
      # @param range [Range<Integer>] of profile ids
      # @param piece [Integer] its index
      # @return [Array, nil] see {PieceProcess#write}; nil where it has been given up
      def write(copy, range, piece) = ask(:write, copy, range, piece)

      # @return [void]
      def give_up = @socket.close

      # Ends it.
      #
      # @return [void]
      def stop
        give_up
        return if @pid.nil?

        Process.kill("TERM", @pid)
        Process.wait(@pid)
      end

      private

      def ask(*words)
        tell(*words)
        hear
      end

      def tell(*words)
        Framing.write(@socket, words)
      rescue SystemCallError, IOError
        give_up
      end

      def hear = Framing.read(@socket).tap { |heard| give_up if heard.nil? }
    end
  end
end
