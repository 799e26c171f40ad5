# frozen_string_literal: true

module EstrelServer
  module Answers
    # When a process that answers clears away what no question needs any more: Ruby does not see the memory behind data
    # frames, so it would do that late. At once where it has grown much; after little where nobody waits, now and then.
    class Garbage
      # Bytes by which the process has grown since it last cleared away.
      MUCH = 30_000_000
      LITTLE = 5_000_000
      # Seconds without a question after which nobody waits, and between two times for little.
      IDLE = 0.2
      APART = 2.0
      private_constant :MUCH, :LITTLE, :IDLE, :APART

      # @param clock [#call] gives seconds
      # @param memory [#call] gives bytes held
      # @param collect [#call] clears away
      def initialize(clock: -> { Process.clock_gettime(Process::CLOCK_MONOTONIC) },
                     memory: Estrel::Budget.method(:memory), collect: GC.method(:start))
        @clock = clock
        @memory = memory
        @collect = collect
        @least = memory.call
        @next = 0
      end

      # @return [Float, nil] seconds without a question after which {#idle} is to be called; nil where it need not be
      def wait = grown >= LITTLE ? [@next - @clock.call, IDLE].max : nil

      # To be called after a question.
      #
      # @return [void]
      def answered = grown >= MUCH && clear

      # To be called when there has been none for {#wait}.
      #
      # @return [void]
      def idle = grown >= LITTLE && clear

      private

      def grown
        held = @memory.call
        @least = held if held < @least
        held - @least
      end

      def clear
        @collect.call
        @least = @memory.call
        @next = @clock.call + APART
      end
    end
  end
end
