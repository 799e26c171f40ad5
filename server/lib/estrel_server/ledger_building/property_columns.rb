# frozen_string_literal: true

require "stringio"

module EstrelServer
  module LedgerBuilding
    # Turns the JSON of properties into one typed column per property.
    class PropertyColumns
      # @param fields [Array<Estrel::Catalogue::Field>]
      def initialize(fields)
        @mixed, @uniform = fields.partition(&:mixed)
      end

      # @param json [Polars::Series] one JSON object per row
      # @return [Polars::DataFrame] one column per property, named by {Estrel::Ledger::Layout.property}
      def read(json)
        columns = [*uniform(json), *mixed(json)]
        Polars::DataFrame.new(columns)
      end

      private

      # Properties that always had one type are read in one pass.
      def uniform(json)
        return [] if @uniform.empty?

        lines = json.to_frame.select([Polars.col(json.name).str.concat("\n")]).item
        schema = @uniform.to_h { |field| [field.name, json_type(field)] }
        frame = Polars.read_ndjson(StringIO.new(lines), schema: schema)
        # Polars takes some names for patterns, such as "*" and "^n$", but none that begins as our columns do.
        frame.columns = @uniform.map { |field| column(field) }
        frame.select(@uniform.map { |field| typed(field) }).get_columns
      end

      def json_type(field) = field.type == "time" ? Polars::String : Estrel::Ledger::Layout::DTYPES.fetch(field.type)

      def typed(field)
        value = Polars.col(column(field))
        field.type == "time" ? Times.micros(value) : value
      end

      # A property that changed type is kept as text, whatever each value was.
      def mixed(json)
        @mixed.map do |field|
          next by_row(json, field) if field.name.include?("\\") # which no path can name

          path = "$['#{field.name.gsub("'", "\\\\'")}']"
          json.to_frame.select([Polars.col(json.name).str.json_path_match(path).alias(column(field))]).to_series
        end
      end

      def by_row(json, field)
        texts = json.to_a.map do |text|
          value = text && JSON.parse(text)[field.name]
          value.nil? || value.is_a?(String) ? value : JSON.generate(value)
        end
        Polars::Series.new(column(field), texts, dtype: Polars::String)
      rescue JSON::ParserError => e
        raise Salvage::Mismatch, e.message
      end

      def column(field) = Estrel::Ledger::Layout.property(field.name)
    end
  end
end
