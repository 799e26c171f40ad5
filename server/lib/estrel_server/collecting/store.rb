# frozen_string_literal: true

module EstrelServer
  module Collecting
    # Stores the messages of some requests in one transaction, in the order in which they came, and remembers those that
    # were refused.
    class Store
      # Settles the outcome of every message.
      #
      # @param requests [Array<Batcher::Request>]
      # @return [void]
      def store(requests)
        Database::OnceHeard.unheard do
          Record.transaction do
            prepare(IngestTurn.take)
            @sequence.store(requests.flat_map(&:messages))
            @version = IngestTurn.take # links of our own have been heeded already
            requests.each { |request| keep_refusals(request) }
          end
        end
      rescue StandardError
        @version = nil # what was remembered may have been rolled back
        raise
      end

      private

      def now = Time.now.utc.strftime("%Y-%m-%d %H:%M:%S.%6N")

      # What was remembered is wrong when somebody else has merged, moved or erased meanwhile.
      def prepare(version)
        return if version == @version

        @sequence = Sequence.new(Importing::Identity.new(now), Importing::CatalogueKeeper.new)
        @version = version
      end

      def keep_refusals(request)
        rows = request.messages.select { |message| message.outcome == "refused" }.map do |message|
          values = message.values || {}
          [request.source.id, message.reason[0, 1000], values["type"].to_s[0, 255], values["subject"].to_s[0, 320],
           message.original.scrub("\u{FFFD}")[0, Refusal::MAX_PAYLOAD], now]
        end
        Importing::SQL.insert("refusals", "source_id, reason, event_type, subject, payload, received_at", rows)
      end
    end
  end
end
