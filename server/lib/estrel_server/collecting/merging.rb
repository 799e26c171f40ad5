# frozen_string_literal: true

module EstrelServer
  module Collecting
    # Makes profiles part of others, many at a time: their identifiers, consents, events and attribute values follow.
    # Nobody may be both, one that goes and one that stays.
    module Merging
      # A merge as a link demands it.
      Pair = Struct.new(:link_id, :from, :into)

      FOLLOWING = %w[identifiers consents].freeze
      private_constant :FOLLOWING

      module_function

      # Where both have a value of one attribute for the same instant, the one that is kept wins; the other is recorded.
      #
      # @param pairs [Array<Pair>] of different profiles all
      # @return [void]
      def carry_out(pairs)
        return if pairs.empty?

        portraits = Portraits.new(pairs.flat_map { |pair| [pair.from, pair.into] })
        list(pairs)
        move
        dropped = drop_values(pairs.map(&:from))
        record(pairs, portraits, dropped)
        IngestTurn.owners_changed
      end

      def list(pairs)
        connection.execute("CREATE TEMPORARY TABLE IF NOT EXISTS merging (from_id BIGINT PRIMARY KEY, into_id BIGINT)")
        connection.execute("DELETE FROM merging")
        Importing::SQL.insert("merging", "from_id, into_id", pairs.map { |pair| [pair.from, pair.into] })
      end

      def move
        FOLLOWING.each { |table| follow(table) }
        follow("events", before: "origin_profile_id = COALESCE(origin_profile_id, profile_id),")
        follow("attribute_values", how: "IGNORE")
        %w[merged_into_id id].each do |column|
          connection.execute("UPDATE merging STRAIGHT_JOIN profiles ON #{column} = from_id " \
                             "SET merged_into_id = into_id")
        end
      end

      # Straight from the few profiles that go to their rows: on freshly filled tables the database would begin at the
      # other end.
      def follow(table, how: "", before: "")
        connection.execute("UPDATE #{how} merging STRAIGHT_JOIN #{table} ON profile_id = from_id " \
                           "SET #{before} profile_id = into_id")
      end

      def drop_values(profiles)
        rows = AttributeValue.where(profile_id: profiles)
        found = rows.pluck(:profile_id, :attribute_definition_id, :occurred_at, :value)
        return {} if found.empty?

        rows.delete_all
        names = AttributeDefinition.pluck(:id, :name).to_h
        found.group_by(&:shift).transform_values do |values|
          values.map do |attribute, at, value|
            { "attribute" => names[attribute], "occurred_at" => at.iso8601(6), "value" => value }
          end
        end
      end

      def record(pairs, portraits, dropped)
        now = Time.now.utc.strftime("%Y-%m-%d %H:%M:%S.%6N")
        rows = pairs.map do |pair|
          before = { "from" => portraits.of(pair.from), "into" => portraits.of(pair.into),
                     "dropped" => dropped.fetch(pair.from, []) }
          [pair.link_id, pair.from, pair.into, Importing::SQL.json(before), now]
        end
        Importing::SQL.insert("merges", "link_id, from_profile_id, into_profile_id, `before`, merged_at", rows)
      end

      def connection = Record.connection

      private_class_method :list, :move, :follow, :drop_values, :record, :connection
    end
  end
end
