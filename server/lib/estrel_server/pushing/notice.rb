# frozen_string_literal: true

module EstrelServer
  module Pushing
    # Tells webhooks that want to know when a run of an export has ended, and when there is an alert.
    class Notice
      # Raised where it may work the next time, or never.
      class NotTaken < Error; end

      # @param run [ExportRun] that has ended
      # @return [void]
      def self.of_run(run)
        spread("run.ended", { run: run.token, number: run.id, export: run.export.name,
                              audience: run.audience_version.audience.name, as_of: run.as_of.iso8601,
                              state: run.state, exported: run.row_count, error: run.error })
      end

      # @param alert [Alert]
      # @return [void]
      def self.of_alert(alert)
        spread("alert.raised", { alert: alert.id, about: alert.about.iso8601, text: alert.text })
      end

      def self.spread(type, data)
        body = JSON.generate({ type: type, timestamp: Time.now.utc.iso8601(6), data: data })
        Destination.kept.where(kind: "webhook").select(&:notified?).each do |destination|
          Delayed::Job.enqueue(Jobs::NoticeJob.new(destination.id, "msg_#{SecureRandom.uuid}", body))
        end
      end
      private_class_method :spread

      # @param destination [Destination] a webhook
      # @param connection [Connection]
      def initialize(destination, connection = Connection.new(destination))
        @connection = connection
      end

      # @param id [String] of the message
      # @param body [String]
      # @return [void]
      # @raise [NotTaken, Connection::NoAnswer, Connection::Impossible]
      def tell(id, body)
        answer = @connection.post(id, body)
        raise NotTaken, answer.to_s unless answer.verdict == :taken
      ensure
        @connection.close
      end
    end
  end
end
