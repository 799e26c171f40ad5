# frozen_string_literal: true

module EstrelServer
  module Pushing
    # How long to wait before a message that was not taken is sent again: exponential with full jitter, by chance from 0
    # to twice as long as at the attempt before, up to a limit; never less than the destination asked for. Frozen.
    class Backoff
      # Attempts after which a destination is given up.
      MOST = 8
      # Seconds.
      LONGEST = 300
      # What a destination can ask for at most, seconds.
      LONGEST_ASKED = 3600

      # @param first [Float] seconds, at most, after the first attempt
      # @param random [Random]
      def initialize(first: EstrelServer.settings.push_pause_ms / 1000.0, random: Random.new)
        @first = first
        @random = random
        freeze
      end

      # @param attempts [Integer] made so far, 1 or more
      # @param asked [Float, nil] seconds the destination asked to wait
      # @return [Float, nil] seconds; nil where it is to be given up
      def pause(attempts, asked: nil)
        return if attempts >= MOST

        by_chance = @random.rand * [@first * (2**(attempts - 1)), LONGEST].min
        [by_chance, (asked || 0).clamp(0, LONGEST_ASKED)].max
      end
    end
  end
end
