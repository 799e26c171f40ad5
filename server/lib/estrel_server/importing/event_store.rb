# frozen_string_literal: true

module EstrelServer
  module Importing
    # Stores a batch of events: each is unique by source and id, the first one wins.
    #
    # To be used inside a transaction that holds the ingest turn.
    class EventStore
      COLUMNS = "event_type_id, profile_id, source_id, event_key, occurred_at, received_at, properties"
      CONFLICT = "this id is already known with other contents; the first one is kept"

      # @param identity [Identity]
      # @param catalogue [CatalogueKeeper]
      def initialize(identity, catalogue)
        @identity = identity
        @catalogue = catalogue
      end

      # @param events [Array<EventReader::Event>]
      # @return [Outcome]
      def store(events)
        outcome = Outcome.new
        fresh = without_repeats(events, outcome)
        fresh = without_known(fresh, outcome)
        insert(fresh)
        outcome.stored = fresh.size
        outcome
      end

      private

      def without_repeats(events, outcome)
        firsts = {}
        events.each do |event|
          key = event.identity
          first = firsts[key]
          first ? judge(event, content(first) == content(event), outcome) : firsts[key] = event
        end
        firsts.values
      end

      def content(event) = [event.type, event.subject, event.occurred_at, event.properties]

      def without_known(events, outcome)
        known = events.group_by(&:source).flat_map { |source, list| known_rows(source, list) }.to_h
        return events if known.empty?

        owners = @identity.lookup(events.map(&:subject))
        events.reject do |event|
          stored = known[event.identity] or next false
          judge(event, same?(event, stored, owners), outcome)
          true
        end
      end

      def known_rows(source, events)
        id = @catalogue.source_id(source) or return []
        keys = events.map { |event| SQL.quote(event.key) }.join(",")
        SQL.connection.select_rows(
          "SELECT event_key, event_type_id, profile_id, CAST(occurred_at AS CHAR), properties FROM events " \
          "WHERE source_id = #{id} AND event_key IN (#{keys})"
        ).map { |key, *rest| ["#{source}\n#{key}", rest] }
      end

      def same?(event, stored, owners)
        type, profile, occurred_at, properties = stored
        profile == owners[event.subject] && occurred_at == event.occurred_at &&
          type == @catalogue.event_type_id(event.type) && Oj.load(properties, mode: :strict) == event.properties
      end

      def judge(event, same, outcome)
        same ? outcome.already_known += 1 : outcome.conflict(event.row, CONFLICT)
      end

      def insert(events)
        return if events.empty?

        @catalogue.observe(events.map { |event| [event.type, event.properties] }, events.map(&:source))
        owners = @identity.resolve(events.map(&:subject))
        rows = events.map do |event|
          [@catalogue.event_type_id(event.type), owners.fetch(event.subject),
           @catalogue.source_id(event.source), event.key, event.occurred_at, event.received_at,
           SQL.json(event.properties)]
        end
        SQL.insert("events", COLUMNS, rows)
      end
    end
  end
end
