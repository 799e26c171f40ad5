# frozen_string_literal: true

module EstrelServer
  module Jobs
    # Tells a webhook in a background worker that something has happened here. A notice is sent again under the same id
    # after pauses that grow; one that cannot be told is kept as a fault, where *Data → Health* shows it.
    NoticeJob = Struct.new(:destination_id, :message_id, :body) do
      include Attempted

      def perform
        destination = Destination.kept.find_by(id: destination_id)
        Pushing::Notice.new(destination).tell(message_id, body) if destination&.notified?
      end

      # When all attempts have failed, or none can be of use.
      def failure(job)
        Fault.keep("notices", "destination #{destination_id}", Error.new(job.last_error.to_s.lines.first.to_s.strip))
      end

      def max_attempts = 8
    end
  end
end
