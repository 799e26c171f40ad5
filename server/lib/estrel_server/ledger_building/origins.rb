# frozen_string_literal: true

module EstrelServer
  module LedgerBuilding
    # Reads whose events came from profiles that have become part of others, and from event types that are read as
    # others.
    class Origins
      # By way of the profiles that others have become part of: an index of its own would cost every event something.
      MOVED = <<~SQL
        SELECT STRAIGHT_JOIN e.profile_id, e.id, e.origin_profile_id
        FROM (SELECT DISTINCT merged_into_id AS id FROM profiles WHERE merged_into_id IS NOT NULL AND %s) AS owners
        JOIN events e ON e.profile_id = owners.id WHERE e.origin_profile_id IS NOT NULL
      SQL
      RENAMED = <<~SQL
        SELECT e.id, t.name FROM events e JOIN event_types t ON t.id = e.event_type_id WHERE t.merged_into_id IS NOT NULL AND e.id > %d
      SQL
      NEVER = Estrel::Lifecycle::Spells::NEVER
      private_constant :NEVER

      # @param calendar [Estrel::Calendar]
      def initialize(calendar)
        @calendar = calendar
      end

      # @param dump [Dump]
      # @return [Polars::DataFrame] as {Estrel::Ledger::Layout::ORIGIN_COLUMNS}
      def moved(dump)
        columns = Estrel::Ledger::Layout::ORIGIN_COLUMNS
        rows = [Polars::DataFrame.new(columns.transform_values { [] }, schema_overrides: columns)]
        given = { "profile_id" => Polars::Int64, "event_id" => Polars::Int64, "origin_id" => Polars::Int64 }
        dump.each([format(MOVED, dump.wanted("merged_into_id"))], given) do |events|
          rows << events.join(owners, on: "origin_id", how: "inner").select(columns.keys)
        end
        Polars.concat(rows)
      end

      # @param dump [Dump]
      # @param after [Integer] only events with higher numbers
      # @return [Polars::DataFrame] as {Estrel::Ledger::Layout::RENAMED_COLUMNS}
      def renamed(dump, after: 0)
        columns = Estrel::Ledger::Layout::RENAMED_COLUMNS
        rows = [Polars::DataFrame.new(columns.transform_values { [] }, schema_overrides: columns)]
        dump.each([format(RENAMED, after)], columns) { |events| rows << events }
        Polars.concat(rows)
      end

      private

      # For every profile that has become part of another: who owned its events from which day to which. Two are known
      # to be one from when the link between them was received.
      def owners = @owners ||= owners_frame

      def owners_frame
        merges = Merge.joins(:link).order(:id).pluck(:from_profile_id, :into_profile_id, "links.received_at")
                      .to_h { |from, into, at| [from, [into, day(at)]] }
        rows = merges.keys.flat_map { |origin| chain(origin, merges) }
        names = { "origin_id" => Polars::Int64, "owner_id" => Polars::Int64, "since" => Polars::Int32, "until" => Polars::Int32 }
        Polars::DataFrame.new(names.keys.each_with_index.to_h { |name, index| [name, rows.map { |row| row[index] }] },
                              schema_overrides: names)
      end

      def chain(origin, merges)
        owner = origin
        since = 0
        rows = []
        while (into, at = merges[owner])
          rows << [origin, owner, since, at]
          owner = into
          since = at
        end
        rows << [origin, owner, since, NEVER]
      end

      def day(time) = Estrel::Calendar.number(@calendar.day_of((time.to_r * 1_000_000).to_i))
    end
  end
end
