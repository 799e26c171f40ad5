# frozen_string_literal: true

module EstrelServer
  module Jobs
    # Carries out one export run in a background worker; `goes_on` where it only passed its turn before.
    ExportJob = Struct.new(:run_id, :goes_on) do
      def perform
        Exporting::Runner.new(ExportRun.find(run_id)).run(goes_on: goes_on || false)
      end

      # When all attempts have failed for a reason nobody thought of.
      def failure(job)
        run = ExportRun.find_by(id: run_id)
        run.finish("failed", error: job.last_error.to_s.lines.first.to_s.strip) if run&.under_way?
      end

      # As where the database was away.
      def reschedule_at(now, attempts) = now + (2**attempts)

      def max_attempts = 5

      def queue_name = "exports"
    end
  end
end
