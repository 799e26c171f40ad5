# frozen_string_literal: true

require "stringio"

module EstrelServer
  module Importing
    # Reads many rows of a CSV file of events at once, without a Ruby object per field.
    #
    # Takes only rows in the most ordinary form: nothing quoted, plain text for all names and identifiers, a time in
    # UTC.
    class OrdinaryRows
      include Ordinary

      # A number that JSON and a double hold as it is written.
      NUMBER = "^-?(?:0|[1-9]\\d{0,14})(?:\\.\\d{1,15})?$"
      MOMENT = "^\\d{4}-\\d\\d-\\d\\dT\\d\\d:\\d\\d:\\d\\d(?:\\.\\d{1,9})?(?:Z|[+-]\\d\\d:\\d\\d)$"
      # What JSON, or a file for the database, would have to escape.
      SPECIAL = "[\\x00-\\x1f\\\\]"
      TYPES = %w[number boolean text].freeze
      private_constant :NUMBER, :MOMENT, :SPECIAL, :TYPES

      # @param mapping [Mapping]
      # @param column_types [Hash{String => String}] of all columns, in their order
      # @param format [String] of {Instants::FORMATS}
      # @param kinds [Array<String>] the identifier kinds there are
      # @param latest [Time] the latest instant accepted
      # @param received_at [String]
      # @param earliest [Time, nil] from when on events are kept
      def initialize(mapping:, column_types:, format:, kinds:, latest:, received_at:, earliest: nil)
        @mapping = mapping
        @types = column_types
        @identifiers = mapping.identifier_columns
        @names = %w[id source type subject time received_at].to_h { |ours| [ours, mapping.column(ours)] }
        taken = [*@names.values, *@identifiers.values]
        @properties = column_types.keys.reject { |name| taken.include?(name) || mapping.field(name).nil? }
        @subject = identifier_form(kinds)
        @earliest, @latest = [earliest, latest].map { |time| (time.to_r * 1_000_000).to_i }
        @received_at = received_at
        @ordinary = format == "iso8601" && ordinary_columns?
      end

      # @param rows [Array<Row>] valid UTF-8, none blank, each with as many fields as there are columns
      # @return [Ordinary::Block, nil] nil where the rows cannot be read together
      def read(rows)
        return unless @ordinary

        quoted, plain = rows.each_index.partition { |index| rows[index].original.include?('"') }
        lines = plain.map { |index| rows[index].original }
        frame = fields(lines) or return
        frame = parts(frame, lines, plain)
        elsewhere = quoted.map { |index| rows[index].values[@names["id"]] }
        frame = frame.filter(conditions(frame) & Polars.col("id").is_in(elsewhere.compact).is_not)
        shapes, ordinary = without_odd_shapes(frame)
        Block.new(columns(ordinary, Polars.lit(@received_at)), shapes, (0...rows.size).to_a - ordinary["row"].to_a)
      rescue Polars::Error
        nil
      end

      private

      # The time of receipt, a device beside another subject, days with their year last and decimal commas are read row
      # by row.
      def ordinary_columns?
        names = @properties.map { |column| @mapping.field(column) }
        !@mapping.decimal_comma? && (@types.values_at(*@properties) - TYPES).empty? &&
          !(@types.key?(@names["received_at"]) || @types.key?("receivedat")) &&
          (@identifiers.size < 2 || !@identifiers.key?(Device::KIND)) && names.uniq.size == names.size
      end

      # @return [Polars::DataFrame, nil] the rows as text, by the names of the columns; nothing for an empty field
      def fields(lines)
        separator = CsvRows::SEPARATORS.find { |one| lines.first&.count(one).to_i == @types.size - 1 } or return
        frame = Polars.read_csv(StringIO.new(lines.join("\n")), has_header: false, sep: separator, quote_char: nil,
                                                                infer_schema_length: 0)
        return unless frame.height == lines.size && frame.width == @types.size

        frame.columns = @types.keys.each_index.map { |index| "field:#{index}" }
        frame
      end

      def field(column) = Polars.col("field:#{@types.keys.index(column)}")

      # What the file may name, as text; a column it lacks is nothing.
      def named(ours)
        constant = @mapping.constants[ours]
        return Polars.lit(constant) if constant

        @types.key?(@names[ours]) ? field(@names[ours]) : Polars.lit(nil).cast(Polars::String)
      end

      def parts(frame, lines, rows)
        frame.with_columns([named("type").alias("type"), named("time").alias("time"), subject.alias("subject"),
                            named("source").fill_null(EventReader::DEFAULT_SOURCE).alias("source"),
                            Polars::Series.new("row", rows, dtype: Polars::UInt32), id(lines),
                            data.alias("data"), signature.alias("signature")])
             .with_columns([micros("time").alias("occurred")])
      end

      # Without a column of ids, equal rows are the same event.
      def id(lines)
        return named("id").alias("id") if @types.key?(@names["id"])

        Polars::Series.new("id", lines.map { |line| "row-#{Digest::SHA256.hexdigest(line)[0, 40]}" }, dtype: Polars::String)
      end

      def subject
        given = @identifiers.filter_map do |kind, column|
          Polars.concat_str([Polars.lit("#{kind}:"), field(column)]) if @types.key?(column)
        end
        Polars.coalesce([*given, named("subject")])
      end

      # JSON of the fields that hold something.
      def data
        parts = @properties.map do |column|
          name = JSON.generate(@mapping.field(column))
          text = Polars.concat_str([Polars.lit(",#{name}:\""), field(column), Polars.lit("\"")])
          bare = Polars.concat_str([Polars.lit(",#{name}:"), field(column)])
          Polars.when(bare?(column)).then(bare).otherwise(text).fill_null("")
        end
        return Polars.lit("{}") if parts.empty?

        Polars.concat_str([Polars.lit("{"), Polars.concat_str(parts).str.slice(1), Polars.lit("}")])
      end

      # Whether a field stands in JSON without quotes.
      def bare?(column)
        case @types[column]
        when "number" then field(column).str.contains(NUMBER)
        when "boolean" then field(column).is_in(Values::BOOLEANS)
        else Polars.lit(false)
        end.fill_null(false)
      end

      # For each field its place and a letter for its type.
      def signature
        parts = @properties.each_with_index.map do |column, place|
          text = Polars.when(field(column).str.contains(MOMENT)).then(Polars.lit("T")).otherwise(Polars.lit("S"))
          bare = Polars.lit(@types[column] == "number" ? "N" : "B")
          letter = Polars.when(bare?(column)).then(bare).otherwise(text)
          held = Polars.when(field(column).is_not_null).then(letter)
          Polars.concat_str([Polars.lit("#{place}:"), held]).fill_null("")
        end
        parts.empty? ? Polars.lit("") : Polars.concat_str(parts)
      end

      # Whether a field is a number as JSON has it, or surely none; others are left to be read by themselves.
      def sure_number?(column) = bare?(column) | field(column).is_null | field(column).str.contains("^[^0-9+-]")

      def conditions(frame)
        column = ->(name) { Polars.col(name) }
        twice = frame.select(%w[source id]).is_duplicated
        plain = @properties.map { |name| field(name).str.contains(SPECIAL).fill_null(false).is_not }
        numbers = @properties.select { |name| @types[name] == "number" }.map { |name| sure_number?(name) }
        [*plain_names, column["subject"].str.contains(@subject), column["time"].str.contains(TIME),
         column["occurred"].is_between(@earliest, @latest), *plain, *numbers, Polars.lit(twice).is_not]
          .map { |condition| condition.fill_null(false) }.reduce(:&)
      end
    end
  end
end
