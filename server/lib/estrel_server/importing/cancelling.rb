# frozen_string_literal: true

module EstrelServer
  module Importing
    # Finds out whether somebody has asked for an import to stop. Asked all the time, by several threads, it looks once
    # a second.
    class Cancelling
      # Raised where the import is to stop.
      class Cancelled < Error; end

      # @param import [Import]
      def initialize(import)
        @import = import
        @looked_at = nil
      end

      # @param at_once [Boolean] whether to look now, however short ago it was looked
      # @return [void]
      # @raise [Cancelled]
      def check(at_once: false)
        now = Process.clock_gettime(Process::CLOCK_MONOTONIC)
        return if !at_once && @looked_at && now - @looked_at < 1

        @looked_at = now
        cancelled = Record.connection_pool.with_connection do
          Import.where(id: @import.id, cancel_requested: true).exists?
        end
        raise Cancelled if cancelled
      end
    end
  end
end
