# frozen_string_literal: true

module EstrelServer
  module LedgerBuilding
    # Reads the history of all attributes from the store.
    class History
      SELECT = <<~SQL
        SELECT v.profile_id, d.name, TIMESTAMPDIFF(MICROSECOND, '1970-01-01', v.occurred_at),
               TIMESTAMPDIFF(MICROSECOND, '1970-01-01', v.received_at), NULLIF(v.value, 'null')
        FROM attribute_values v JOIN attribute_definitions d ON d.id = v.attribute_definition_id WHERE
      SQL

      # @param catalogue [Estrel::Catalogue]
      # @param dump [Dump]
      def initialize(catalogue, dump)
        @catalogue = catalogue
        @dump = dump
      end

      # @return [Polars::DataFrame] as {Estrel::Ledger::Layout::HISTORY_COLUMNS}, in the ledger's order
      def read
        columns = Estrel::Ledger::Layout::HISTORY_COLUMNS
        frame = Polars::DataFrame.new(columns.transform_values { [] }, schema_overrides: columns)
        salvage = Salvage.new
        @dump.each([SELECT + @dump.wanted("v.profile_id")], columns, nullable: ["value"]) do |rows|
          frame = salvage.read(rows) { |part| part.with_columns([text.alias("value")]) } || frame
        end
        @set_aside = salvage.set_aside
        frame.sort(Estrel::Ledger::Layout::HISTORY_ORDER)
      end

      # @return [Array<Array(Polars::DataFrame, String)>] values that could not be read, see {Salvage}
      attr_reader :set_aside

      private

      # The JSON scalar as plain text; the times of attributes that are times throughout, as microseconds.
      def text
        json = Polars.concat_str([Polars.lit('{"v":'), Polars.col("value"), Polars.lit("}")])
        plain = json.str.json_path_match("$.v")
        times = @catalogue.attributes.values.select { |field| field.type == "time" }.map(&:name)
        return plain if times.empty?

        Polars.when(Polars.col("attribute").is_in(times)).then(Times.micros(plain).cast(Polars::String)).otherwise(plain)
      end
    end
  end
end
