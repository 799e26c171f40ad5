# frozen_string_literal: true

module EstrelServer
  module Collecting
    # Holds every source to its events per minute: a bucket that fills evenly and may be emptied at once.
    class RateLimit
      # @param clock [#call] seconds, monotonic
      def initialize(clock = -> { Process.clock_gettime(Process::CLOCK_MONOTONIC) })
        @clock = clock
        @buckets = {}
        @mutex = Mutex.new
      end

      # @param source [Directory::Source]
      # @param count [Integer] events to let through
      # @return [Integer, nil] seconds to wait; nil where they may pass
      def wait(source, count)
        limit = source.events_per_minute or return

        @mutex.synchronize do
          left, at = @buckets[source.id] || [limit, @clock.call]
          now = @clock.call
          left = [left + ((now - at) * limit / 60.0), limit].min
          needed = [count, limit].min
          @buckets[source.id] = [left >= needed ? left - count : left, now]
          left >= needed ? nil : ((needed - left) * 60.0 / limit).ceil
        end
      end
    end
  end
end
