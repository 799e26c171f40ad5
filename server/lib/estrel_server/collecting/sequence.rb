# frozen_string_literal: true

module EstrelServer
  module Collecting
    # Stores messages so that each goes to the profile that holds its identifier at that moment. Only links change who
    # does, so what does not depend on one is stored kind by kind, and links together: see {Rounds}.
    #
    # To be used inside a transaction that holds the ingest turn.
    class Sequence
      CONFLICT = Importing::EventStore::CONFLICT

      # @param identity [Importing::Identity]
      # @param catalogue [Importing::CatalogueKeeper]
      def initialize(identity, catalogue)
        @identity = identity
        @catalogue = catalogue
      end

      # Settles the outcome of every message that has content.
      #
      # @param messages [Array<Message>] in the order of receipt
      # @return [void]
      def store(messages)
        messages = messages.select(&:content)
        messages.each { |message| message.settle(nil) }
        @catalogue.observe([], messages.map { |message| message.content.source }.uniq)
        Rounds.new(@identity, messages).to_a.each do |round|
          runs = round.others.group_by { |message| run(message) }.values
          @identity.mentioned(runs.size < 2 ? {} : first_mentions(round.others))
          runs.each { |run| store_run(run) }
          @identity.mentioned({})
          round.links.chunk_while { |before, after| run(before) == run(after) }.each { |run| store_run(run) }
        end
      end

      private

      def now = Time.now.utc.strftime("%Y-%m-%d %H:%M:%S.%6N")

      # When each identifier was mentioned, and by whom first: what is stored kind by kind finds them in another order.
      def first_mentions(messages)
        contents = messages.map(&:content)
        times = Importing::Identity.times(contents.map { |one| [one.subject, one.occurred_at, one.received_at] })
        sources = contents.reverse.to_h { |content| [content.subject, content.source] }
        times.to_h { |subject, mentioned| [subject, [mentioned, @catalogue.source_id(sources.fetch(subject))]] }
      end

      def run(message) = [kind(message.content), message.content.source]

      def kind(content) = content.is_a?(Fact) ? content.kind : "event"

      def store_run(messages)
        source = @catalogue.source_id(messages.first.content.source)
        @identity.told_by(source, now)
        case kind(messages.first.content)
        when "event" then store_events(source, messages)
        when "attributes" then store_attributes(source, messages)
        when "consent" then store_consents(source, messages)
        when "link" then store_links(source, messages)
        end
      end

      def store_events(source, messages)
        known = receipts(source, messages)
        fresh = messages.reject { |message| message.refuse(CONFLICT) || true if known.key?(message.content.key) }
        settle(fresh, Importing::EventStore.new(@identity, @catalogue).store(fresh.map(&:content)))
      end

      def store_attributes(source, messages)
        fresh = without_known(source, messages)
        rows = fresh.map { |message| message.content.attributes }
        settle(fresh, Importing::ProfileStore.new(@identity, @catalogue, now).store(rows))
        receive(source, fresh.filter_map(&:content))
      end

      def store_consents(source, messages)
        facts = unheard(source, messages).map(&:content)
        mentions = facts.map { |fact| [fact.subject, fact.occurred_at, fact.received_at] }
        owners = @identity.resolve(Importing::Identity.times(mentions))
        rows = receive(source, facts).zip(facts).map do |receipt, fact|
          [receipt, owners.fetch(fact.subject), fact.data["channel"], fact.data["given"] ? 1 : 0,
           fact.data["evidence"], fact.occurred_at, fact.received_at]
        end
        Importing::SQL.insert("consents", "receipt_id, profile_id, channel, given, evidence, occurred_at, received_at",
                              rows)
        facts.each { |fact| fact.row.settle("stored") }
      end

      def store_links(source, messages)
        fresh = unheard(source, messages)
        facts = fresh.map(&:content)
        reasons = Linker.new(@identity).link(facts, receive(source, facts))
        fresh.zip(reasons) { |message, reason| reason ? message.refuse(reason) : message.settle("stored") }
      end

      # Links or consents that are not known yet, and not about identifiers that were erased.
      def unheard(source, messages)
        erased = @identity.erased(messages.flat_map { |message| Rounds.identifiers(message.content) })
        without_known(source, messages, erased).reject do |message|
          message.refuse(Importing::Identity::ERASED) || true if Rounds.identifiers(message.content).intersect?(erased)
        end
      end

      def settle(messages, outcome)
        outcome.refusals.each { |refusal| refusal.row.refuse(refusal.reason, conflict: refusal.conflict) }
        outcome.known.each { |message| message.settle("known") }
        messages.each { |message| message.settle("stored") unless message.outcome }
      end

      def receipts(source, messages)
        keys = messages.map { |message| Importing::SQL.quote(message.content.key) }.join(",")
        Record.connection.select_rows("SELECT event_key, content_digest FROM receipts " \
                                      "WHERE source_id = #{source} AND event_key IN (#{keys})").to_h
      end

      # A fact counts once by its source and id; in one run the first one wins, unless it is to be refused.
      def without_known(source, messages, erased = [])
        known = receipts(source, messages)
        keys = messages.map { |message| message.content.key }
        taken = Event.where(source_id: source, event_key: keys).pluck(:event_key).to_set
        messages.reject do |message|
          fact = message.content
          digest = known[fact.key]
          if taken.include?(fact.key) || (digest && digest != fact.digest)
            next message.refuse(CONFLICT, conflict: true) || true
          end

          known[fact.key] = fact.digest unless erased.any? && Rounds.identifiers(fact).intersect?(erased)
          message.settle("known") || true if digest
        end
      end

      # @return [Array<Integer>] ids of the receipts
      def receive(source, facts)
        rows = facts.map do |fact|
          [source, fact.key, fact.kind, fact.digest, fact.subject, fact.occurred_at, fact.received_at]
        end
        columns = "source_id, event_key, kind, content_digest, subject, occurred_at, received_at"
        Importing::SQL.insert_numbered("receipts", columns, rows)
      end
    end
  end
end
