# frozen_string_literal: true

require "json"
require "zlib"

module Estrel
  module Exports
    # Writes rows as CSV (RFC 4180), JSON Lines or Parquet, many rows at a time. The same rows give the same bytes.
    class RowsFile
      CHUNK = 50_000
      # Characters that make a spreadsheet take a cell for a formula when it begins with one.
      FORMULA = "^[=+\\-@\\t\\r]"
      STARTS_FORMULA = /\A[=+\-@\t\r]/
      private_constant :STARTS_FORMULA
      # What a number looks like, which a leading sign does not make a formula.
      NUMBER = "^[+-]?\\d+(?:\\.\\d+)?$"
      ENDINGS = { "csv" => "csv", "jsonl" => "jsonl", "parquet" => "parquet" }.freeze
      # Control characters as JSON has them.
      CONTROLS = ("\x00".."\x1f").to_h { |char| [char, JSON.generate(char)[1..-2]] }.freeze
      private_constant :FORMULA, :NUMBER, :CONTROLS

      # @param text [String, nil]
      # @return [String, nil] that no spreadsheet takes for a formula
      def self.harmless(text) = text.to_s.match?(STARTS_FORMULA) ? "'#{text}" : text

      # @param settings [Hash{String => Object}] as {Settings::FILE}
      def initialize(settings)
        @settings = settings
      end

      # @return [String] how the file's name ends
      def ending = "#{ENDINGS.fetch(@settings["format"])}#{".gz" if gzip?}"

      # @param frames [Enumerable<Polars::DataFrame>] one at least, all with the same columns; Parquet takes all at once
      # @param path [String] of a file that is replaced
      # @return [void]
      # @raise [Invalid] for a text that the encoding does not have
      def write(frames, path)
        return Polars.concat(frames.to_a).write_parquet(path, compression: "zstd") if @settings["format"] == "parquet"

        File.open(path, "wb") do |file|
          compressed(file) do |io|
            opened = false
            frames.each do |frame|
              opening(frame) { |text| io.write(text) } unless opened
              opened = true
              lines(frame) { |text| io.write(encoded(text)) }
            end
          end
          file.fsync
        end
      end

      private

      def gzip? = @settings["gzip"] && @settings["format"] != "parquet"

      # Without a time in its head, so that the same rows give the same bytes.
      def compressed(file)
        return yield(file) unless gzip?

        writer = Zlib::GzipWriter.new(file)
        writer.mtime = 1
        yield writer
        writer.finish
      end

      def csv? = @settings["format"] == "csv"

      # What stands before the rows.
      def opening(frame)
        return unless csv?

        yield "\u{FEFF}" if @settings["encoding"] == "utf-8-bom"
        yield encoded("#{frame.columns.map { |name| head(name) }.join(separator)}\r\n")
      end

      def lines(frame)
        csv = csv?
        names = frame.columns
        # Polars takes some names for patterns, such as "*" and "^n$".
        frame = frame.rename(names.each_with_index.to_h { |name, index| [name, "column #{index}"] })
        fields = names.zip(frame.get_columns).map { |name, series| csv ? cell(series) : pair(series, name) }
        line = csv ? Polars.concat_str(fields, sep: separator) : Polars.concat_str(opened(fields), sep: "")
        (0...frame.height).step(CHUNK) do |from|
          ending = csv ? "\r\n" : "\n"
          yield "#{frame.slice(from, CHUNK).select([line.alias("line")])["line"].to_a.join(ending)}#{ending}"
        end
      end

      def separator = Settings::SEPARATORS.fetch(@settings["separator"])

      def encoded(text)
        return text unless @settings["format"] == "csv" && @settings["encoding"] == "windows-1252"

        text.encode("Windows-1252")
      rescue Encoding::UndefinedConversionError => e
        raise Invalid, "#{e.error_char.inspect} cannot be encoded in Windows-1252; choose UTF-8"
      end

      def head(name)
        name = self.class.harmless(name) if @settings["neutralise"]
        name.match?(/["\r\n]/) || name.include?(separator) ? "\"#{name.gsub("\"", "\"\"")}\"" : name
      end

      # What is missing is an empty cell; a text is quoted where it has to be.
      def cell(series)
        text = plain(series)
        if series.dtype == Polars::String
          text = neutral(text) if @settings["neutralise"]
          special = text.str.contains("[\"\\r\\n]") | text.str.contains(separator, literal: true)
          quoted = Polars.concat_str([Polars.lit("\""), text.str.replace_all("\"", "\"\"", literal: true),
                                      Polars.lit("\"")])
          text = Polars.when(special).then(quoted).otherwise(text)
        end
        text.fill_null("")
      end

      def neutral(text)
        formula = text.str.contains(FORMULA) & text.str.contains(NUMBER).is_not
        Polars.when(formula).then(Polars.concat_str([Polars.lit("'"), text])).otherwise(text)
      end

      def pair(series, name)
        text = plain(series)
        text = json_text(text, series) if series.dtype == Polars::String
        Polars.concat_str([Polars.lit("#{JSON.generate(name)}:"), text.fill_null("null")])
      end

      def opened(fields)
        [Polars.lit("{"), *fields.flat_map { |field| [field, Polars.lit(",")] }[..-2], Polars.lit("}")]
      end

      # As JSON has it; hardly a text holds control characters, so they are looked for first.
      def json_text(text, series)
        escapes = { "\\" => "\\\\", "\"" => "\\\"" }
        escapes.merge!(CONTROLS) if series.str.contains("[\\x00-\\x1f]").any
        escaped = escapes.reduce(text) { |so_far, (from, to)| so_far.str.replace_all(from, to, literal: true) }
        Polars.concat_str([Polars.lit("\""), escaped, Polars.lit("\"")])
      end

      # Whole numbers without a point.
      def plain(series)
        column = Polars.col(series.name)
        return column.cast(Polars::String) unless series.dtype == Polars::Float64

        whole = (column == column.floor) & (column.abs < 1e15)
        Polars.when(whole).then(column.cast(Polars::Int64, strict: false).cast(Polars::String))
              .otherwise(column.cast(Polars::String))
      end
    end
  end
end
