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
      # Identifiers whose times count, since people are reachable from then on.
      ADDRESS = /\A(?:email|phone):/
      # When an identifier is known: from its earliest mention on, and since its earliest receipt; as the database takes
      # them. They do not depend on the order in which mentions come.
      Times = Struct.new(:since, :received) do
        # @param other [Times, nil]
        # @return [Times] the earlier of each
        def earliest(other) = other ? Times.new([since, other.since].min, [received, other.received].min) : self
      end
      private_constant :COLUMNS, :ADDRESS
      ERASED = "this identifier belongs to an erased person"

      # @param now [String] time of creation, as the database takes it
      def initialize(now)
        @now = now
        @source_id = nil
        @kinds = IdentifierKind.ids
        @known = {}
        @mentions = {}
        @times = {}
      end

      # @param mentions [Enumerable<Array(String, String, String)>] identifier, time and receipt of each mention
      # @return [Hash{String => Times}]
      def self.times(mentions)
        mentions.each_with_object({}) do |(identifier, since, received), times|
          times[identifier] = Times.new(since, received).earliest(times[identifier])
        end
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
      # @param mentions [Hash{String => Array(Times, Integer)}] the times, and the source's id
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

      # @param times [Hash{String => Times}] identifiers, and when they were mentioned
      # @return [Hash{String => Integer}] every one of them, new profiles made where nobody held it
      def resolve(times)
        found = lookup(times.keys)
        note_earlier(times.slice(*found.keys))
        strangers = times.keys - found.keys
        return found if strangers.empty?

        made = strangers.zip(create(strangers.size)).to_h
        attach(made, times)
        found.merge(made)
      end

      # Moves the times of addresses that were mentioned, or received, earlier than was known.
      #
      # @param times [Hash{String => Times}] of identifiers that somebody holds
      # @return [void]
      def note_earlier(times)
        mentioned = times.select { |identifier, _| ADDRESS.match?(identifier) }
        read_times(mentioned.keys - @times.keys)
        earlier = mentioned.filter_map do |identifier, mention|
          times = mention.earliest(@times.fetch(identifier))
          [identifier, times] unless times == @times[identifier]
        end
        return if earlier.empty?

        owners = lookup(earlier.map(&:first))
        SQL.insert("identifiers", COLUMNS, rows(owners, earlier.to_h),
                   "ON DUPLICATE KEY UPDATE since = VALUES(since), created_at = VALUES(created_at)")
        @times.merge!(earlier.to_h)
        AttributeChange.note(owners.values)
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
      # @param times [Hash{String => Times}]
      # @return [void]
      def attach(owners, times)
        SQL.load("identifiers", COLUMNS, rows(owners, times))
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
      def forget_uncommitted = [@known, @times].each(&:clear)

      # Gives identifiers to other profiles.
      #
      # @param owners [Hash{String => Integer}] identifiers somebody holds, and who gets them
      # @param times [Hash{String => Times}] from which each holds
      # @return [Hash{String => Integer}] their ids
      def reassign(owners, times)
        SQL.insert("identifiers", COLUMNS, rows(owners, times),
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

      def rows(owners, times)
        owners.map do |identifier, profile|
          kind, value = Identifiers.split(identifier)
          mention, source = @mentions.fetch(identifier) { [times.fetch(identifier), @source_id] }
          [profile, @kinds.fetch(kind), value, mention.received, mention.since, source]
        end
      end

      def read_times(identifiers)
        @times.shift(identifiers.size) if @times.size > MEMORY
        pairs = identifiers.map { |identifier| Identifiers.split(identifier) }
        pairs.group_by(&:first).each do |kind, held|
          values = held.map { |_, value| SQL.quote(value) }.join(",")
          found = SQL.connection.select_rows("SELECT value, CAST(since AS CHAR), CAST(created_at AS CHAR) FROM " \
                                             "identifiers WHERE identifier_kind_id = #{@kinds.fetch(kind)} " \
                                             "AND value IN (#{values})")
          found.each { |value, *times| @times["#{kind}:#{value}"] = Times.new(*times) }
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
