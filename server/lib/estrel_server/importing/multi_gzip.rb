# frozen_string_literal: true

module EstrelServer
  module Importing
    # Reads a gzip file of one or more members as one stream of lines.
    #
    # Has a buffer of its own: the library's moves all that it has unpacked with every line it gives, which takes for
    # ever where little unpacks to much.
    class MultiGzip
      CHUNK = 1 << 16

      # @param file [IO]
      # @yieldparam bytes [Integer] how much more has been unpacked
      def initialize(file, &on_unpacked)
        @file = file
        @on_unpacked = on_unpacked
        @reader = Zlib::GzipReader.new(file)
        @buffer = "".b
        @at = 0
      end

      # @param length [Integer] bytes
      # @return [String, nil]
      def read(length)
        nil while rest < length && filled?
        rest.zero? ? nil : take([rest, length].min)
      end

      # @param byte [Integer] that is read next
      # @return [void]
      def ungetbyte(byte)
        @buffer = [byte].pack("C") << @buffer.byteslice(@at..)
        @at = 0
      end

      # @param separator [String]
      # @param limit [Integer] bytes
      # @return [String, nil]
      def gets(separator, limit)
        loop do
          found = @buffer.index(separator, @at)
          length = found ? found + separator.bytesize - @at : rest
          return take([length, limit].min) if found || length >= limit
          return length.zero? ? nil : take(length) unless filled?
        end
      end

      private

      def rest = @buffer.bytesize - @at

      def take(length)
        @at += length
        @buffer.byteslice(@at - length, length)
      end

      # @return [Boolean] whether there was more
      def filled?
        part = (@reader.read(CHUNK) || (next_member && @reader.read(CHUNK)) unless @ended)
        @ended = part.nil?
        return false if @ended

        @on_unpacked&.call(part.bytesize)
        @buffer = @buffer.byteslice(@at..) << part
        @at = 0
        true
      end

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
