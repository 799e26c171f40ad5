# frozen_string_literal: true

module EstrelServer
  module Workers
    # What a background process does over and over, in named steps. A step that fails ends neither the process nor the
    # other steps: its fault is kept where Data shows it, and it is tried again after pauses that grow.
    class Upkeep
      FIRST_PAUSE = 0.5
      # The longest pause of a step that fails, seconds.
      LONGEST_PAUSE = 60.0

      State = Struct.new(:failures, :not_before)
      private_constant :State

      # @param process [String] as Data names it
      def initialize(process)
        @process = process
        @states = Hash.new { |states, step| states[step] = State.new(0, 0.0) }
        @clean = Set.new
      end

      # Does a step, unless it has failed a moment ago.
      #
      # @param name [String]
      # @yieldreturn [Object]
      # @return [Object, nil] the block's result; nil where it failed or was left out
      # @raise where the database is away, since that is no step's own fault
      def step(name)
        state = @states[name]
        return if now < state.not_before

        result = yield
        settle(name) unless @clean.include?(name)
        result
      rescue *Database::Store::AWAY
        raise
      rescue StandardError => e
        fail(name, e)
      end

      # @param name [String]
      # @return [Float] the pause after the newest failure, seconds
      def pause(name) = [FIRST_PAUSE * (2**(@states[name].failures - 1)), LONGEST_PAUSE].min

      # @param name [String]
      # @return [Boolean] whether it failed when it was last tried
      def failing?(name) = @states[name].failures.positive?

      private

      def now = Process.clock_gettime(Process::CLOCK_MONOTONIC)

      # What an earlier process of the same kind has left is settled too, once.
      def settle(name)
        Fault.settle(@process, name)
        @states[name] = State.new(0, 0.0)
        @clean << name
      end

      # Where the database is away, there is nowhere to keep it; the next one that can be kept counts on.
      def fail(name, error)
        state = @states[name]
        state.failures += 1
        @clean.delete(name)
        Log.error("a step failed", error, of: @process, step: name)
        Figures.count(:faults_total, { process: @process })
        state.not_before = now + pause(name)
        Fault.keep(@process, name, error)
        nil
      rescue StandardError => e
        Log.error("a fault cannot be kept", e)
      end
    end
  end
end
