# frozen_string_literal: true

module EstrelServer
  module Jobs
    # A job of the exports' worker: tried again after pauses that grow, as where the database was away or a destination
    # did not answer. Says what becomes of its run when that has been of no use.
    module Attempted
      # When all attempts have failed.
      #
      # @param job [Delayed::Job]
      # @return [void]
      def failure(job)
        found = run
        found.finish("failed", error: job.last_error.to_s.lines.first.to_s.strip[0, 500]) if found&.under_way?
      end

      def reschedule_at(now, attempts) = now + (2**attempts)

      def max_attempts = 5

      def queue_name = "exports"
    end
  end
end
