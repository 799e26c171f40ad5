# frozen_string_literal: true

module Bench
  # Time as it passes.
  module Clock
    module_function

    # @return [Float] seconds since some moment
    def now = Process.clock_gettime(Process::CLOCK_MONOTONIC)

    # @return [Array(Object, Float)] the block's answer, and how many seconds it took
    def timed
      started = now
      [yield, now - started]
    end
  end
end
