# frozen_string_literal: true

module EstrelServer
  module Jobs
    # Carries out one export run in a background worker.
    ExportJob = Struct.new(:run_id) do
      def perform
        Exporting::Runner.new(ExportRun.find(run_id)).run
      end

      def max_attempts = 3

      def queue_name = "exports"
    end
  end
end
