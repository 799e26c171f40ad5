# frozen_string_literal: true

module EstrelServer
  module Jobs
    # Writes and sends a page in a background worker.
    PageJob = Struct.new(:run_id) do
      include Attempted

      def perform = Pages::Sending.new(PageRun.find(run_id)).run

      # @return [PageRun, nil]
      def run = PageRun.find_by(id: run_id)
    end
  end
end
