# frozen_string_literal: true

require "delayed_job_active_record"

module EstrelServer
  # A background worker for one queue.
  #
  # A worker of the same name that was killed leaves its job locked; starting again frees it, so the job goes on.
  class Worker
    # @param queue [String]
    def initialize(queue)
      @queue = queue
    end

    # Works until told to stop with SIGTERM.
    def run
      EstrelServer.eager_load
      Delayed::Worker.logger = Logger.new($stdout)
      Delayed::Worker.sleep_delay = 0.5
      Delayed::Worker.raise_signal_exceptions = :term
      worker = Delayed::Worker.new(queues: [@queue], quiet: true)
      worker.name = "#{@queue} worker"
      Delayed::Job.clear_locks!(worker.name)
      worker.start
    end
  end
end
