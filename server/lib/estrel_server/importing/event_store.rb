# frozen_string_literal: true

module EstrelServer
  module Importing
    # Stores a batch of events: each is unique by source and id, the first one wins.
    #
    # To be used inside a transaction that holds the ingest turn.
    class EventStore
      COLUMNS = "event_type_id, profile_id, source_id, event_key, occurred_at, received_at, properties, device"
      CONFLICT = "an event with this ID and different data already exists; the first was kept"

      # @param identity [Identity]
      # @param catalogue [CatalogueKeeper]
      def initialize(identity, catalogue)
        @identity = identity
        @catalogue = catalogue
        @known = KnownEvents.new(catalogue, identity)
      end

      # @param events [Array<EventReader::Event>]
      # @return [Outcome]
      def store(events)
        outcome = Outcome.new
        fresh = without_repeats(events, outcome)
        fresh = without_erased(without_known(fresh, outcome), outcome)
        fresh = without_overflow(fresh, outcome)
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
        moved = @identity.moved(events.map(&:subject))
        events.reject do |event|
          stored = known[event.identity] or next false
          judge(event, same?(event, stored, owners, moved), outcome)
          true
        end
      end

      # Nobody comes back by way of an identifier that was erased.
      def without_erased(events, outcome)
        erased = @identity.erased(events.map(&:subject))
        return events if erased.empty?

        gone, rest = events.partition { |event| erased.include?(event.subject) }
        gone.each { |event| outcome.refuse(event.row, Identity::ERASED) }
        rest
      end

      def without_overflow(events, outcome)
        overflow = @catalogue.overflow(events.map { |event| [event.type, event.properties] })
        events.each_with_index.filter_map do |event, index|
          overflow[index] ? outcome.refuse(event.row, overflow[index]) && nil : event
        end
      end

      def known_rows(source, events)
        @known.rows(source, events.map(&:key)).map { |key, *rest| ["#{source}\n#{key}", rest] }
      end

      # The events of a device that went to another customer stay with the first.
      def same?(event, stored, owners, moved)
        type, profile, occurred_at, properties = stored
        holder = profile == owners[event.subject] || moved.include?(event.subject)
        holder && occurred_at == event.occurred_at &&
          type == @catalogue.event_type_id(event.type) && JSON.parse(properties) == event.properties
      end

      def judge(event, same, outcome)
        same ? outcome.known << event.row : outcome.conflict(event.row, CONFLICT)
      end

      def insert(events)
        return if events.empty?

        @catalogue.observe(events.map { |event| [event.type, event.properties] }, events.map(&:source))
        mentions = events.map { |event| [event.subject, event.occurred_at, event.received_at] }
        owners = @identity.resolve(Identity.times(mentions))
        rows = events.map do |event|
          [@catalogue.event_type_id(event.type), owners.fetch(event.subject),
           @catalogue.source_id(event.source), event.key, event.occurred_at, event.received_at,
           SQL.json(event.properties), event.device]
        end
        SQL.insert("events", COLUMNS, rows)
      end
    end
  end
end
