# frozen_string_literal: true

require "monitor"

module EstrelServer
  module Parts
    # Where the threads of a connection put what arrives, and another thread takes it out.
    class Mailbox
      def initialize
        @lock = Monitor.new
        @arrived = @lock.new_cond
        @letters = []
      end

      # @param letter [Object]
      # @return [void]
      def put(letter)
        @lock.synchronize do
          @letters << letter
          @arrived.signal
        end
      end

      # @param seconds [Numeric] for which the first is waited for
      # @return [Array<Object>] all that have arrived
      def take(seconds)
        @lock.synchronize do
          @arrived.wait(seconds) if @letters.empty?
          @letters.slice!(0..)
        end
      end
    end
  end
end
