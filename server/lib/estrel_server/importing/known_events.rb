# frozen_string_literal: true

module EstrelServer
  module Importing
    # Looks up events by source and id among those that are stored.
    #
    # To be used inside a transaction that holds the ingest turn.
    class KnownEvents
      COLUMNS = { "source" => Polars::String, "key" => Polars::String, "stored_type" => Polars::Int64,
                  "stored_profile" => Polars::Int64, "stored_at" => Polars::String,
                  "stored_properties" => Polars::String }.freeze
      private_constant :COLUMNS

      # @param catalogue [CatalogueKeeper]
      # @param identity [Identity]
      def initialize(catalogue, identity)
        @catalogue = catalogue
        @identity = identity
      end

      # @param source [String]
      # @param keys [Array<String>]
      # @return [Array<Array>] key, number of the event type, profile, time and properties as text of those there are
      def rows(source, keys)
        id = @catalogue.source_id(source) or return []
        quoted = keys.map { |key| SQL.quote(key) }.join(",")
        unpacked(SQL.connection.select_rows(
                   "SELECT event_key, event_type_id, profile_id, CAST(occurred_at AS CHAR), properties, id " \
                   "FROM events WHERE source_id = #{id} AND event_key IN (#{quoted})"
                 ))
      end

      # @param frame [Polars::DataFrame] of {Ordinary::Block}
      # @return [Array<Polars::DataFrame>] those that are stored exactly so, those that are stored in any other way, and
      #   those that are not
      def split(frame)
        stored = stored(frame)
        return [frame.clear, frame.clear, frame] if stored.height.zero?

        joined = frame.join(stored, on: %w[source key], how: "left")
        known = Polars.col("stored_at").is_not_null
        same = same(frame).fill_null(false)
        [known & same, known & same.is_not, known.is_not].map { |part| joined.filter(part).select(frame.columns) }
      end

      private

      def unpacked(rows)
        packed = rows.select { |row| row[4] == PropertyBlock::PACKED }
        texts = PropertyBlock.texts(packed.map(&:last))
        packed.each { |row| row[4] = texts.fetch(row.last) }
        rows.each(&:pop)
      end

      def stored(frame)
        rows = frame.partition_by("source").flat_map do |part|
          source = part["source"][0]
          rows(source, part["key"].to_a).map { |row| [source, *row] }
        end
        columns = COLUMNS.keys.zip(rows.empty? ? COLUMNS.map { [] } : rows.transpose).to_h
        Polars::DataFrame.new(columns, schema_overrides: COLUMNS)
      end

      def same(frame)
        types = frame["type"].unique.to_a.to_h { |name| [name, @catalogue.event_type_id(name)] }
        owners = @identity.lookup(frame["subject"].unique.to_a)
        number = ->(column, ids) { Polars.col(column).replace_strict(ids.keys, ids.values, default: nil, return_dtype: Polars::Int64) }
        column = ->(name) { Polars.col(name) }
        (number["type", types] == column["stored_type"]) & (number["subject", owners] == column["stored_profile"]) &
          (column["occurred_at"] == column["stored_at"]) & (column["properties"] == column["stored_properties"])
      end
    end
  end
end
