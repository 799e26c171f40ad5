# frozen_string_literal: true

module EstrelServer
  module Parts
    # How long parts of questions of each kind have taken lately, and so when one is late.
    class Paces
      # Times of a kind that are remembered, and how many it takes to tell.
      KEPT = 100
      ENOUGH = 5
      # Seconds: before enough is known, and at least.
      UNKNOWN = 3.0
      LEAST = 0.5
      private_constant :KEPT, :ENOUGH, :UNKNOWN, :LEAST

      def initialize
        @lock = Mutex.new
        @seconds = Hash.new { |all, kind| all[kind] = [] }
      end

      # @param kind [Object]
      # @param seconds [Float]
      # @return [void]
      def note(kind, seconds) = @lock.synchronize { @seconds[kind].unshift(seconds).slice!(KEPT..) }

      # @param kind [Object]
      # @return [Float] seconds within which 95 of 100 were answered
      def limit(kind)
        known = @lock.synchronize { @seconds[kind].sort }
        return UNKNOWN if known.size < ENOUGH

        [known[(known.size * 0.95).ceil - 1], LEAST].max
      end
    end
  end
end
