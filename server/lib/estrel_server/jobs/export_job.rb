# frozen_string_literal: true

module EstrelServer
  module Jobs
    # Carries out one export run in a background worker.
    ExportJob = Struct.new(:run_id) do
      def perform
        Exporting::Runner.new(ExportRun.find(run_id)).run
      end

      # When all attempts have failed for a reason nobody thought of.
      def failure(job)
        run = ExportRun.find_by(id: run_id)
        run.finish("failed", error: job.last_error.to_s.lines.first.to_s.strip) if run&.under_way?
      end

      def max_attempts = 3

      def queue_name = "exports"
    end
  end
end
