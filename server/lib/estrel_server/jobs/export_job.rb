# frozen_string_literal: true

module EstrelServer
  module Jobs
    # Carries out one export run in a background worker; `goes_on` where it only passed its turn before.
    ExportJob = Struct.new(:run_id, :goes_on) do
      include Attempted

      def perform
        Exporting::Runner.new(ExportRun.find(run_id)).run(goes_on: goes_on || false)
      end

      # @return [ExportRun, nil]
      def run = ExportRun.find_by(id: run_id)
    end
  end
end
