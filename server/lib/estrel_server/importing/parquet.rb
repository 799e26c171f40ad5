# frozen_string_literal: true

module EstrelServer
  module Importing
    # Parquet files are written out as CSV before they are read: the importer knows lines.
    module Parquet
      MAGIC = "PAR1".b.freeze

      module_function

      # @param path [String]
      # @return [Boolean]
      def parquet?(path) = File.binread(path, MAGIC.bytesize) == MAGIC

      # @param path [String]
      # @param limit [Integer, nil] rows wanted; nil for all
      # @yieldparam path [String] of the same rows as CSV, which is gone afterwards
      # @return [Object] the block's result; the path itself is yielded where it is no Parquet file
      # @raise [InputFile::Unreadable]
      def as_lines(path, limit: nil)
        return yield path unless parquet?(path)

        Tempfile.create(["parquet", ".csv"]) do |file|
          frame = Estrel::OnePiece.of(read(path, limit))
          frame.write_csv(file.path, datetime_format: "%Y-%m-%dT%H:%M:%S%.6fZ", date_format: "%Y-%m-%d")
          yield file.path
        end
      end

      # Columns that hold further ones are unnested; lists are left out. By position, since Polars takes some names for
      # patterns, such as "*" and "^n$".
      def read(path, limit)
        columns = Polars.read_parquet(path, n_rows: limit).get_columns
        columns = columns.flat_map { |column| unnested(column) } while columns.any? { |column| nested?(column) }
        Polars::DataFrame.new(columns.reject { |column| column.dtype.is_a?(Polars::List) })
      rescue StandardError => e
        raise InputFile::Unreadable, "the Parquet file cannot be read: #{e.message.lines.first.to_s.strip[0, 200]}"
      end
      private_class_method :read

      def unnested(column)
        return [column] unless nested?(column)

        column.struct.fields.map { |field| column.struct.field(field).alias("#{column.name}.#{field}") }
      end
      private_class_method :unnested

      def nested?(column) = column.dtype.is_a?(Polars::Struct)
      private_class_method :nested?
    end
  end
end
