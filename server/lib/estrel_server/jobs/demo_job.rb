# frozen_string_literal: true

module EstrelServer
  module Jobs
    # Fills an empty workspace with the demo.
    class DemoJob
      # @return [Boolean] whether one is waiting or at work
      def self.under_way? = Delayed::Job.where("handler LIKE ?", "%#{name}%").exists?

      def perform = Demo.new(EstrelServer.settings, ->(_) {}).fill_if_empty

      def max_attempts = 1

      def queue_name = "imports"
    end
  end
end
