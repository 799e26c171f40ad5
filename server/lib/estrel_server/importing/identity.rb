# frozen_string_literal: true

module EstrelServer
  module Importing
    # Finds the profiles that hold identifiers, and makes new ones for identifiers nobody holds yet.
    #
    # Remembers what it found, up to a bound. To be used inside a transaction that holds the ingest turn;
    # {#forget_uncommitted} after a rollback.
    class Identity
      MEMORY = 300_000
      COLUMNS = "profile_id, identifier_kind_id, value, created_at, since, source_id"
      private_constant :COLUMNS
      ERASED = "this identifier belonged to a person who was erased on request"

      # @param now [String] time of creation, as the database takes it
      def initialize(now)
        @now = now
        @source_id = nil
        @kinds = IdentifierKind.ids
        @known = {}
        @mentions = {}
      end

      # Says who tells from now on.
      #
      # @param source_id [Integer]
      # @param now [String] as the database takes it
      # @return [void]
      def told_by(source_id, now)
        @source_id = source_id
        @now = now
      end

      # Says who named identifiers first, and when, where they are not attached in that order.
      #
      # @param mentions [Hash{String => Array(String, Integer)}] the time, as the database takes it, and the source's id
      # @return [void]
      def mentioned(mentions)
        @mentions = mentions
      end

      # @param identifiers [Array<String>] kind:value
      # @return [Hash{String => Integer}] those somebody holds, with the profile's id
      def lookup(identifiers)
        wanted = identifiers.uniq
        found = @known.slice(*wanted)
        missing = wanted.reject { |identifier| found.key?(identifier) }
        missing.empty? ? found : found.merge(read(missing))
      end

      # @param identifiers [Array<String>]
      # @param since [Hash{String => String}] the time at which each was first seen, as the database takes it
      # @return [Hash{String => Integer}] every one of them, new profiles made where nobody held it
      def resolve(identifiers, since)
        found = lookup(identifiers)
        strangers = identifiers.uniq.reject { |identifier| found.key?(identifier) }
        return found if strangers.empty?

        made = strangers.zip(create(strangers.size)).to_h
        attach(made, since)
        found.merge(made)
      end

      # @param identifiers [Array<String>]
      # @return [Hash{String => Array<String>}] those somebody holds, and all else this person holds, with all of these
      def held_with(identifiers)
        held = held_by(lookup(identifiers).values.uniq).values
        held.each_with_object({}) { |all, found| all.each { |identifier| found[identifier] = all } }
      end

      # @param profiles [Array<Integer>]
      # @return [Hash{Integer => Array<String>}] what each holds, in the order in which it came to it
      def held_by(profiles)
        return {} if profiles.empty?

        names = @kinds.invert
        rows = SQL.connection.select_rows("SELECT profile_id, identifier_kind_id, value FROM identifiers " \
                                          "WHERE profile_id IN (#{profiles.join(",")}) ORDER BY id")
        rows.group_by(&:shift).transform_values { |held| held.map { |kind, value| "#{names.fetch(kind)}:#{value}" } }
      end

      # @param profiles [Array<Integer>]
      # @return [Hash{Integer => String}] the customer identifier of those that have one
      def customers(profiles)
        return {} if profiles.empty?

        rows = SQL.connection.select_rows("SELECT profile_id, value FROM identifiers WHERE profile_id IN " \
                                          "(#{profiles.uniq.join(",")}) AND identifier_kind_id = #{@kinds["customer"]}")
        rows.to_h { |profile, value| [profile, "customer:#{value}"] }
      end

      # @param count [Integer]
      # @return [Array<Integer>] ids of that many new profiles
      def create(count)
        SQL.insert_numbered("profiles", "created_at", Array.new(count) { [@now] })
      end

      # @param owners [Hash{String => Integer}] free identifiers and the profiles that get them
      # @param since [Hash{String => String}] the time from which each holds
      # @return [void]
      def attach(owners, since)
        SQL.load("identifiers", COLUMNS, rows(owners, since))
        remember(owners)
      end

      # @param identifiers [Array<String>]
      # @return [Array<String>] those that were erased and that nobody holds
      def erased(identifiers)
        return [] unless ErasedIdentifier.exists?

        held = lookup(identifiers)
        ErasedIdentifier.among(identifiers.uniq.reject { |identifier| held.key?(identifier) })
      end

      # @param identifiers [Array<String>]
      # @return [Array<String>] those that have gone from one customer to another
      def moved(identifiers)
        return [] unless IdentifierMove.exists?

        ids = @kinds.invert
        IdentifierMove.joins(:identifier).distinct.where(identifiers: { value: identifiers.uniq.map do |one|
          one.split(":", 2).last
        end })
                                                  .pluck("identifiers.identifier_kind_id", "identifiers.value")
                                                  .map { |kind, value| "#{ids[kind]}:#{value}" }
      end

      # @return [void]
      def forget_uncommitted = @known.clear

      # Gives identifiers to other profiles.
      #
      # @param owners [Hash{String => Integer}] identifiers somebody holds, and who gets them
      # @param since [Hash{String => String}] the time from which each holds
      # @return [Hash{String => Integer}] their ids
      def reassign(owners, since)
        SQL.insert("identifiers", COLUMNS, rows(owners, since),
                   "ON DUPLICATE KEY UPDATE profile_id = VALUES(profile_id), since = VALUES(since)")
        remember(owners)
        select(owners.keys, "id")
      end

      # @param owners [Hash{String => Integer}] identifiers and the profiles that hold them now
      # @return [void]
      def remember(owners)
        @known.shift while @known.size > MEMORY
        @known.merge!(owners)
      end

      private

      def rows(owners, since)
        owners.map do |identifier, profile|
          kind, value = Identifiers.split(identifier)
          at, source = @mentions.fetch(identifier) { [since.fetch(identifier), @source_id] }
          [profile, @kinds.fetch(kind), value, @now, at, source]
        end
      end

      def read(identifiers) = select(identifiers, "profile_id").tap { |owners| remember(owners) }

      # @return [Hash{String => Integer}] a column of the identifiers there are
      def select(identifiers, column)
        pairs = identifiers.map { |identifier| Identifiers.split(identifier) }
        pairs.group_by(&:first).each_with_object({}) do |(kind, held), found|
          values = held.map { |_, value| SQL.quote(value) }.join(",")
          rows = SQL.connection.select_rows("SELECT value, #{column} FROM identifiers " \
                                            "WHERE identifier_kind_id = #{@kinds.fetch(kind)} AND value IN (#{values})")
          rows.each { |value, number| found["#{kind}:#{value}"] = number }
        end
      end
    end
  end
end
