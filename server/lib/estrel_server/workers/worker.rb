# frozen_string_literal: true

module EstrelServer
  module Workers
    # A background worker for one queue. There can be several, on several machines, each with a name of its own.
    #
    # A worker of the same name that was killed leaves its job locked; starting again frees it, so the job goes on. The
    # job of a machine that never comes back is taken by another worker after {LONGEST}; longer work passes its turn.
    class Worker
      # Seconds one job may take.
      LONGEST = 3600

      # @param queue [String]
      # @param slot [Integer] tells the workers of one machine apart
      def initialize(queue, slot = 1)
        @queue = queue
        @name = "#{queue} worker #{slot} on #{Socket.gethostname}"
      end

      # Works until told to stop with SIGTERM.
      def run
        EstrelServer.eager_load(interface: false)
        configure
        upkeep = Upkeep.new("#{@queue} worker")
        until @stopped
          begin
            upkeep.step("taking jobs") { work }
          rescue *Database::Store::AWAY => e
            Log.error("the worker waits for the database", e)
          end
          sleep(PAUSE) unless @stopped
        end
      end

      private

      PAUSE = 0.5
      private_constant :PAUSE

      # Ends when the worker has been told to stop, or raises what it cannot go on with.
      def work
        worker = Delayed::Worker.new(queues: [@queue], quiet: true)
        worker.name = @name
        Delayed::Job.clear_locks!(worker.name)
        worker.start
        @stopped = true
      rescue StandardError, Delayed::FatalBackendError
        @stopped = worker&.stop? || false # the database may have been told to stop too
        raise unless @stopped
      end

      def configure
        Delayed::Worker.logger = nil # what it does is told in the log
        Delayed::Worker.sleep_delay = PAUSE
        Delayed::Worker.max_run_time = LONGEST
        Delayed::Worker.raise_signal_exceptions = :term
      end
    end
  end
end
