# frozen_string_literal: true

module Estrel
  # What one question may cost. It is asked between computations, since one that runs cannot be interrupted.
  class Budget
    LESS = "choose a shorter period or fewer conditions"
    private_constant :LESS

    # Raised for a question that takes too long or too much memory, or whose answer nobody waits for any more.
    class Exceeded < Error; end
    # Raised for a question that has been given up by whoever asked it.
    class Cancelled < Exceeded; end

    # @return [Integer] bytes of memory of this process that belong to no file
    def self.memory
      resident, shared = File.read("/proc/self/statm").split.values_at(1, 2).map(&:to_i)
      (resident - shared) * 4096
    end

    # @param seconds [Numeric]
    # @return [String]
    def self.too_long(seconds) = "stopped after #{seconds} s; #{LESS}"

    # @param seconds [Numeric] from now
    # @param bytes [Integer] of memory of this process beyond the mapped files
    # @param cancelled [#call] tells whether nobody waits for the answer any more
    def initialize(seconds: Float::INFINITY, bytes: Float::INFINITY, cancelled: -> { false })
      @seconds = seconds
      @until = now + seconds
      @bytes = bytes
      @cancelled = cancelled
    end

    # @return [Numeric] memory that may be taken
    attr_reader :bytes

    # @return [Numeric] time that may be taken, from the beginning
    attr_reader :seconds

    # @return [void]
    # @raise [Exceeded]
    def check
      raise Cancelled, "cancelled" if @cancelled.call
      raise Exceeded, self.class.too_long(@seconds) if now > @until
      return if @bytes == Float::INFINITY || self.class.memory <= @bytes

      GC.start # Ruby does not see the memory behind data frames
      return if self.class.memory <= @bytes

      raise Exceeded, "stopped: it would need more than #{@bytes / 1_000_000} MB; #{LESS}"
    end

    private

    def now = Process.clock_gettime(Process::CLOCK_MONOTONIC)
  end

  # No limit.
  Budget::NONE = Budget.new
end
