# frozen_string_literal: true

module EstrelServer
  module LedgerBuilding
    # Reads addresses and consents from the store.
    class Reach
      # The channel each kind of address serves.
      CHANNELS = { "email" => "email", "phone" => "sms" }.freeze
      ADDRESSES = <<~SQL
        SELECT i.profile_id, k.name, TIMESTAMPDIFF(MICROSECOND, '1970-01-01', i.since),
               TIMESTAMPDIFF(MICROSECOND, '1970-01-01', i.created_at), i.value
        FROM identifiers i JOIN identifier_kinds k ON k.id = i.identifier_kind_id WHERE k.name IN ('email', 'phone')
        AND %s ORDER BY i.id
      SQL
      CONSENTS = <<~SQL
        SELECT profile_id, channel, TIMESTAMPDIFF(MICROSECOND, '1970-01-01', occurred_at),
               TIMESTAMPDIFF(MICROSECOND, '1970-01-01', received_at), given
        FROM consents WHERE %s ORDER BY occurred_at, id
      SQL

      # @param dump [Dump]
      def initialize(dump)
        @dump = dump
      end

      # @return [Polars::DataFrame] as {Estrel::Ledger::Layout::REACH_COLUMNS}
      def read
        columns = Estrel::Ledger::Layout::REACH_COLUMNS
        frames = [Polars::DataFrame.new(columns.transform_values { [] }, schema_overrides: columns)]
        common = columns.slice("profile_id", "channel", "occurred_at", "received_at")
        @dump.each([format(ADDRESSES, @dump.wanted("i.profile_id"))], common.merge("address" => Polars::String)) { |rows| frames << addresses(rows) }
        @dump.each([format(CONSENTS, @dump.wanted("profile_id"))], common.merge("given" => Polars::Int64)) { |rows| frames << consents(rows) }
        Polars.concat(frames)
      end

      private

      def addresses(rows)
        channel = CHANNELS.reduce(Polars.col("channel")) do |column, (kind, name)|
          Polars.when(Polars.col("channel") == kind).then(Polars.lit(name)).otherwise(column)
        end
        complete(rows.with_columns([channel.alias("channel"), Polars.lit(nil).cast(Polars::Boolean).alias("given")]))
      end

      def consents(rows)
        complete(rows.with_columns([(Polars.col("given") == 1).alias("given"),
                                    Polars.lit(nil).cast(Polars::String).alias("address")]))
      end

      def complete(rows) = rows.select(Estrel::Ledger::Layout::REACH_COLUMNS.keys)
    end
  end
end
