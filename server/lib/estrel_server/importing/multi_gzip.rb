# frozen_string_literal: true

module EstrelServer
  module Importing
    # Reads a gzip file of one or more members as one stream of lines.
    class MultiGzip
      # @param file [IO]
      def initialize(file)
        @file = file
        @reader = Zlib::GzipReader.new(file)
      end

      def read(length) = @reader.read(length)

      def ungetbyte(byte) = @reader.ungetbyte(byte)

      # @param separator [String]
      # @param limit [Integer] bytes
      # @return [String, nil]
      def gets(separator, limit)
        @reader.gets(separator, limit) || (next_member && @reader.gets(separator, limit))
      end

      private

      def next_member
        unused = @reader.unused
        @reader.finish
        @file.pos -= unused.bytesize if unused
        return if @file.eof?

        @reader = Zlib::GzipReader.new(@file)
      end
    end
  end
end
