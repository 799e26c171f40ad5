# frozen_string_literal: true

module EstrelServer
  module Importing
    # Stores a batch of profile rows: finds or makes the profile of each, attaches its identifiers and adds the values
    # of its attributes to their history.
    #
    # To be used inside a transaction that holds the ingest turn.
    class ProfileStore
      SEVERAL_PEOPLE = "the identifiers of this row belong to different people"
      SEVERAL_CUSTOMERS = "the row would give one person two customer IDs"
      CUSTOMER = /\Acustomer:/
      COLUMNS = "profile_id, attribute_definition_id, occurred_at, received_at, value"
      private_constant :COLUMNS
      CONFLICT = "attribute %s already has a different value at that time; the first was kept"

      # @param identity [Identity]
      # @param catalogue [CatalogueKeeper]
      # @param now [String] time of receipt, as the database takes it
      def initialize(identity, catalogue, now)
        @identity = identity
        @catalogue = catalogue
        @now = now
      end

      # @param rows [Array<ProfileReader::Facts>]
      # @return [Outcome]
      def store(rows)
        outcome = Outcome.new
        rows = without_refused(rows, outcome)
        @catalogue.observe_attributes(rows)
        owned = with_owners(rows, outcome)
        known = known_values(owned)
        @texts = Hash.new { |texts, value| texts[value] = SQL.json(value) }
        inserted = owned.flat_map { |row, profile, changed| values(row, profile, changed, known, outcome) }
        SQL.load("attribute_values", COLUMNS, inserted)
        IngestTurn.values_stored(inserted.size)
        AttributeChange.note(inserted.map(&:first))
        outcome
      end

      private

      def without_refused(rows, outcome)
        overflow = @catalogue.attribute_overflow(rows.map(&:attributes))
        erased = @identity.erased(rows.flat_map(&:identifiers))
        rows.each_with_index.reject do |row, index|
          reason = overflow[index] || (Identity::ERASED if row.identifiers.intersect?(erased))
          outcome.refuse(row.row, reason) if reason
        end.map(&:first)
      end

      # Each row with its profile's id and whether its identifiers were new. New profiles stand in as symbols until
      # all of a batch's are known, then they are made at once.
      def with_owners(rows, outcome)
        owners = @identity.lookup(rows.flat_map(&:identifiers))
        customers = @identity.customers(owners.values)
        before = owners.size
        strangers = []
        matched = rows.filter_map do |row|
          owner = owner(row, owners, customers, outcome) or next
          strangers << (owner = :"stranger#{strangers.size}") if owner == :stranger
          [row, owner, take(row, owner, owners, customers).any?]
        end
        ids = strangers.zip(@identity.create(strangers.size)).to_h
        @newest = ids.values.first || Float::INFINITY
        times = times(matched.map(&:first))
        @identity.note_earlier(times.slice(*owners.keys.first(before)))
        @identity.attach(owners.drop(before).to_h.transform_values { |owner| ids.fetch(owner, owner) }, times)
        matched.map { |row, owner, changed| [row, ids.fetch(owner, owner), changed] }
      end

      def times(rows)
        Identity.times(rows.flat_map do |row|
          row.identifiers.map { |identifier| [identifier, row.occurred_at, row.received_at || @now] }
        end)
      end

      # Whose row it is, :stranger for somebody new, or nil where it would make one person of two.
      def owner(row, owners, customers, outcome)
        holders = row.identifiers.filter_map { |identifier| owners[identifier] }.uniq
        issued = [*row.identifiers.grep(CUSTOMER), *customers[holders.first]].uniq
        return holders.first || :stranger if holders.size < 2 && issued.size < 2

        outcome.conflict(row.row, holders.size > 1 ? SEVERAL_PEOPLE : SEVERAL_CUSTOMERS)
        nil
      end

      # Gives the row's new identifiers to its owner.
      #
      # @return [Array<String>] them
      def take(row, owner, owners, customers)
        added = row.identifiers.reject { |identifier| owners.key?(identifier) }
        added.each { |identifier| owners[identifier] = owner }
        issued = added.grep(CUSTOMER).first
        customers[owner] = issued if issued
        added
      end

      # What those who are not new had at these times, by profile and time.
      #
      # @return [Hash{Array(Integer, String) => Hash{Integer => String}}] JSON by attribute
      def known_values(owned)
        owned = owned.select { |_, profile, _| profile < @newest }
        return {} if owned.empty?

        times = owned.map { |row, _, _| SQL.quote(row.occurred_at) }.uniq
        profiles = owned.map { |_, profile, _| profile }.uniq
        rows = SQL.connection.select_rows(
          "SELECT profile_id, CAST(occurred_at AS CHAR), attribute_definition_id, value FROM attribute_values " \
          "WHERE profile_id IN (#{profiles.join(",")}) AND occurred_at IN (#{times.join(",")})"
        )
        rows.group_by { |profile, time, _, _| [profile, time] }
            .transform_values { |held| held.to_h { |_, _, attribute, value| [attribute, value] } }
      end

      # The new attribute values of one row as rows to insert; none where the row says nothing new or contradicts.
      def values(row, profile, changed, known, outcome)
        held = known[[profile, row.occurred_at]] ||= {}
        fresh = {}
        row.attributes.each do |name, value|
          id = @catalogue.attribute_ids[name] or next # only ever null: nothing to know yet
          before = held[id]
          next fresh[id] = @texts[value] if before.nil?
          next if JSON.parse(before) == value

          outcome.conflict(row.row, format(CONFLICT, name))
          return []
        end
        held.merge!(fresh)
        fresh.any? || changed ? outcome.stored += 1 : outcome.known << row.row
        received = row.received_at || @now
        fresh.map { |id, json| [profile, id, row.occurred_at, received, json] }
      end
    end
  end
end
