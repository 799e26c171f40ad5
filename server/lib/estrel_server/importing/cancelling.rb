# frozen_string_literal: true

module EstrelServer
  module Importing
    # Finds out whether an import is to stop. Asked all the time, by several threads, it looks once a second, and notes
    # how far the file has been read, also where it holds nothing but blank lines.
    class Cancelling
      # Raised where the import is to stop.
      class Cancelled < Error; end

      # @param import [Import]
      def initialize(import)
        @import = import
        @looked_at = nil
      end

      # @param at_once [Boolean] whether to look now, however short ago it was looked
      # @param bytes_done [Integer, nil] how much of the file on disk has been read
      # @return [void]
      # @raise [Cancelled]
      def check(at_once: false, bytes_done: nil)
        now = Process.clock_gettime(Process::CLOCK_MONOTONIC)
        return if !at_once && @looked_at && now - @looked_at < 1

        @looked_at = now
        cancelled = Record.connection_pool.with_connection do
          Import.where(id: @import.id, bytes_done: ...bytes_done).update_all(bytes_done: bytes_done) if bytes_done
          Import.where(id: @import.id, cancel_requested: true).exists?
        end
        raise Cancelled if cancelled
      end
    end
  end
end
