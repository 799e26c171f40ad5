# frozen_string_literal: true

module EstrelServer
  module Importing
    # A file as it was uploaded, in any form that can be read as lines of text: Parquet files and sheets of spreadsheets
    # are written out as CSV first, and UTF-16 as UTF-8.
    class SourceFile
      # @param path [String]
      # @param mapping [Mapping] may name the encoding and the sheet
      # @param settings [Settings]
      def initialize(path, mapping = Mapping.new, settings = EstrelServer.settings)
        @path = path
        @mapping = mapping
        @bytes = settings.unpacked_mb * 1_000_000
      end

      # @return [Array<String>] names of sheets; none where it is no spreadsheet
      # @raise [InputFile::Unreadable]
      def sheets = @sheets ||= Spreadsheet.spreadsheet?(@path) ? Spreadsheet.sheets(@path, @bytes) : []

      # @return [String, nil] the chosen sheet, or the first one with more than a heading; nil where it is no
      #   spreadsheet
      def sheet = (@mapping.sheet || sheets.first if sheets.any?)

      # @return [String, nil] of {TextEncoding::NAMES}; nil where it is no text
      def encoding
        return if sheets.any? || Parquet.parquet?(@path)

        @encoding ||= @mapping.encoding || TextEncoding.detect(@path)
      end

      # @yield for every part that has been read; what it raises ends the reading
      # @return [String] names the contents
      def digest
        digest = Digest::SHA256.new
        File.open(@path, "rb") do |file|
          while (part = file.read(InputFile::PULSE))
            digest << part
            yield
          end
        end
        digest.hexdigest
      end

      # @param limit [Integer, nil] rows wanted; nil for all
      # @yieldparam path [String] of a file of lines, which may be gone afterwards
      # @yieldparam encoding [String] that the lines have
      # @return [Object] the block's result
      # @raise [InputFile::Unreadable]
      def as_lines(limit: nil, &block)
        if Parquet.parquet?(@path)
          return Parquet.as_lines(@path, limit: limit) do |path|
            yield path, TextEncoding::UTF8
          end
        end
        return converted(->(target) { write_sheet(target, limit) }, &block) if sheets.any?
        return converted(method(:write_utf8), &block) if TextEncoding::WIDE.include?(encoding)

        yield @path, encoding
      end

      private

      def converted(write)
        Tempfile.create(%w[estrel-lines .csv]) do |file|
          write.call(file.path)
          yield file.path, TextEncoding::UTF8
        end
      end

      def write_sheet(target, limit)
        Spreadsheet.write_csv(@path, sheet, target, limit: limit, bytes: @bytes)
      end

      # Without the byte-order mark.
      def write_utf8(target)
        converter = Encoding::Converter.new(TextEncoding::NAMES.fetch(encoding), Encoding::UTF_8, invalid: :replace,
                                                                                                  undef: :replace)
        File.open(target, "wb") do |out|
          InputFile.each_chunk(@path) do |chunk|
            out << converter.convert(chunk)
            raise InputFile::Unreadable, "the file unpacks to more than #{@bytes / 1_000_000} MB" if out.pos > @bytes
          end
          out << converter.finish
        end
      end
    end
  end
end
