# frozen_string_literal: true

module EstrelServer
  module Collecting
    # Stores the messages of some requests in one transaction, in the order in which they came, so that each goes to the
    # profile that holds its identifier at that moment.
    class Store
      CONFLICT = Importing::EventStore::CONFLICT

      def initialize
        @version = nil
      end

      # Settles the outcome of every message.
      #
      # @param requests [Array<Batcher::Request>]
      # @return [void]
      def store(requests)
        Record.connection_pool.with_connection do
          Record.transaction { store_in_turn(requests) }
        end
      rescue StandardError
        @version = nil # what was remembered may have been rolled back
        raise
      end

      private

      def store_in_turn(requests)
        prepare(IngestTurn.take)
        requests.each { |request| request.messages.each { |message| message.settle(nil) if message.content } }
        messages = requests.flat_map { |request| request.messages.map { |message| [request.source, message] } }
        runs = messages.select { |_, message| message.content }
                       .chunk_while { |before, after| kind(before) == kind(after) && before[0].id == after[0].id }
        runs.each { |run| store_run(run[0][0], run.map(&:last)) }
        keep_refusals(messages)
      end

      def prepare(version)
        return if version == @version

        @identity = Importing::Identity.new(now)
        @catalogue = Importing::CatalogueKeeper.new
        @version = version
      end

      def now = Time.now.utc.strftime("%Y-%m-%d %H:%M:%S.%6N")

      def kind((_, message)) = message.content.is_a?(Fact) ? message.content.kind : "event"

      def store_run(source, messages)
        @identity.told_by(source.id, now)
        case kind([source, messages.first])
        when "event" then store_events(source, messages)
        when "attributes" then store_attributes(source, messages)
        else messages.each { |message| store_fact(source, message) }
        end
      end

      def store_events(source, messages)
        known = receipts(source, messages)
        fresh = messages.reject { |message| message.refuse(CONFLICT) || true if known.key?(message.content.key) }
        events = fresh.map(&:content)
        settle(fresh, Importing::EventStore.new(@identity, @catalogue).store(events))
      end

      def store_attributes(source, messages)
        fresh = without_known(source, messages)
        rows = fresh.map { |message| message.content.attributes }
        settle(fresh, Importing::ProfileStore.new(@identity, @catalogue, now).store(rows))
        fresh.each { |message| receive(source, message.content) if message.content }
      end

      def store_fact(source, message)
        return if without_known(source, [message]).empty?

        fact = message.content
        erased = @identity.erased([fact.subject, *fact.data["same_as"]])
        return message.refuse(Importing::Identity::ERASED) if erased.any?

        fact.kind == "link" ? link(source, message) : consent(source, fact)
        message.settle("stored") if message.content
      end

      def link(source, message)
        fact = message.content
        refusal = Linker.new(@identity).link(fact, receive(source, fact))
        message.refuse(refusal) if refusal
        @version = IngestTurn.take
      end

      def consent(source, fact)
        profile = @identity.resolve([fact.subject]).fetch(fact.subject)
        Consent.create!(receipt_id: receive(source, fact), profile_id: profile, channel: fact.data["channel"],
                        given: fact.data["given"], evidence: fact.data["evidence"], occurred_at: fact.occurred_at,
                        received_at: fact.received_at)
      end

      def settle(messages, outcome)
        outcome.refusals.each { |refusal| refusal.row.refuse(refusal.reason) }
        outcome.known.each { |message| message.settle("known") }
        messages.each { |message| message.settle("stored") unless message.outcome }
      end

      def receipts(source, messages)
        keys = messages.map { |message| Importing::SQL.quote(message.content.key) }.join(",")
        Record.connection.select_rows("SELECT event_key, content_digest FROM receipts " \
                                      "WHERE source_id = #{source.id} AND event_key IN (#{keys})").to_h
      end

      # A fact counts once by its source and id; in one run the first one wins.
      def without_known(source, messages)
        known = receipts(source, messages)
        keys = messages.map { |message| message.content.key }
        taken = Event.where(source_id: source.id, event_key: keys).pluck(:event_key)
        messages.reject do |message|
          fact = message.content
          digest = known[fact.key]
          next message.refuse(CONFLICT) || true if taken.include?(fact.key) || (digest && digest != fact.digest)

          known[fact.key] = fact.digest
          message.settle("known") || true if digest
        end
      end

      # @return [Integer] id of the receipt
      def receive(source, fact)
        Receipt.create!(source_id: source.id, event_key: fact.key, kind: fact.kind, content_digest: fact.digest,
                        subject: fact.subject, occurred_at: fact.occurred_at, received_at: fact.received_at).id
      end

      def keep_refusals(messages)
        rows = messages.select { |_, message| message.outcome == "refused" }.map do |source, message|
          values = message.values || {}
          [source.id, message.reason[0, 1000], values["type"].to_s[0, 255], values["subject"].to_s[0, 320],
           message.original.scrub("\u{FFFD}")[0, Refusal::MAX_PAYLOAD], now]
        end
        Importing::SQL.insert("refusals", "source_id, reason, event_type, subject, payload, received_at", rows)
      end
    end
  end
end
