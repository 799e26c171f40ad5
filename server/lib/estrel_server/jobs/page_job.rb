# frozen_string_literal: true

module EstrelServer
  module Jobs
    # Writes and sends a page in a background worker.
    PageJob = Struct.new(:run_id) do
      def perform = Pages::Sending.new(PageRun.find(run_id)).run

      # When all attempts have failed.
      def failure(job)
        run = PageRun.find_by(id: run_id)
        run.finish("failed", error: job.last_error.to_s.lines.first.to_s.strip[0, 500]) if run&.under_way?
      end

      # As where the destination did not answer.
      def reschedule_at(now, attempts) = now + (2**attempts)

      def max_attempts = 5

      def queue_name = "exports"
    end
  end
end
