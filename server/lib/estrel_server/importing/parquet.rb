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

      # Columns that hold further ones are unnested; lists are left out.
      def read(path, limit)
        frame = Polars.read_parquet(path, n_rows: limit)
        while (nested = frame.schema.select { |_, type| type.is_a?(Polars::Struct) }.keys).any?
          frame = nested.reduce(frame) { |rows, name| unnested(rows, name) }
        end
        frame.select(frame.schema.reject { |_, type| type.is_a?(Polars::List) }.keys)
      rescue StandardError => e
        raise InputFile::Unreadable, "the Parquet file cannot be read: #{e.message.lines.first.to_s.strip[0, 200]}"
      end
      private_class_method :read

      def unnested(frame, name)
        fields = frame[name].struct.fields
        columns = fields.map { |field| Polars.col(name).struct.field(field).alias("#{name}.#{field}") }
        frame.with_columns(columns).drop(name)
      end
      private_class_method :unnested
    end
  end
end
