# frozen_string_literal: true

module EstrelServer
  module Importing
    # One file to import, plain or gzip, read as physical lines without ever holding much of it.
    class InputFile
      MAX_LINE = 1 << 20
      BYTE_ORDER_MARK = "\xEF\xBB\xBF".b.freeze
      GZIP = "\x1F\x8B".b.freeze

      # Raised for a file that cannot be read at all.
      class Unreadable < Error; end

      # @return [Integer] size on disk
      attr_reader :bytes_total

      # How often reading asks whether to go on, bytes.
      PULSE = 1 << 18

      # @param path [String]
      # @param length [Integer]
      # @return [String] so many bytes of its beginning, unpacked
      # @raise [Unreadable]
      def self.head(path, length)
        head = "".b
        each_chunk(path) { |chunk| return head if (head << chunk).bytesize >= length }
        head
      end

      # @param path [String]
      # @yieldparam chunk [String] of it, unpacked
      # @return [void]
      # @raise [Unreadable]
      def self.each_chunk(path)
        File.open(path, "rb") do |file|
          gzip = file.read(2) == GZIP
          file.rewind
          stream = gzip ? MultiGzip.new(file) : file
          while (chunk = stream.read(PULSE))
            yield chunk
          end
        end
      rescue Zlib::Error => e
        raise Unreadable, "the gzip file is damaged: #{e.message}"
      end

      # @param path [String]
      # @param limit [Integer] bytes that may be read of it, unpacked
      # @param encoding [String] of {TextEncoding::NAMES}, but for UTF-16, see {SourceFile}
      # @yield every now and then while reading; what it raises ends the reading
      def initialize(path, limit: Float::INFINITY, encoding: TextEncoding::UTF8, &pulse)
        @encoding = TextEncoding::NAMES.fetch(encoding)
        @path = path
        @limit = limit
        @pulse = pulse
        @read = 0
        @pulse_at = PULSE
        @bytes_total = File.size(path)
      rescue SystemCallError => e
        raise Unreadable, "the file cannot be read: #{e.message}"
      end

      # @return [Integer] how much of the file on disk has been read
      def bytes_done = @file.nil? || @file.closed? ? @bytes_total : @file.pos

      # Yields every line without its line end, as valid UTF-8 or, where it is not, as binary. A line longer than
      # {MAX_LINE} comes cut to that length, with `too_long` true.
      #
      # @yieldparam line [String]
      # @yieldparam too_long [Boolean]
      # @raise [Unreadable]
      def each_line
        File.open(@path, "rb") do |file|
          @file = file
          start_of_text(stream = open_stream)
          plain = stream.equal?(file)
          while (line = stream.gets("\n", MAX_LINE + 1))
            count(line.bytesize) if plain
            too_long = line.bytesize > MAX_LINE && !line.end_with?("\n")
            skip_rest(stream) if too_long
            yield decode(line), too_long
          end
        end
      rescue Zlib::Error => e
        raise Unreadable, "the gzip file is damaged: #{e.message}"
      end

      # @return [String, nil] the first line, by which rejected rows can be read again; nil where it is too long
      # @raise [Unreadable]
      def first_line
        line, too_long = to_enum(:each_line).first
        line.dup.force_encoding(Encoding::UTF_8).scrub unless line.nil? || too_long
      end

      private

      def open_stream
        gzip = @file.read(2) == GZIP
        @file.rewind
        gzip ? MultiGzip.new(@file) { |bytes| count(bytes) } : @file
      end

      # Looks past a byte-order mark.
      def start_of_text(stream)
        head = stream.read(3) || "".b
        head.reverse.each_byte { |byte| stream.ungetbyte(byte) } unless head == BYTE_ORDER_MARK
      end

      def skip_rest(stream)
        while (rest = stream.gets("\n", MAX_LINE))
          count(rest.bytesize) if stream.equal?(@file)
          break if rest.end_with?("\n")
        end
      end

      # By unpacked bytes: of little that unpacks to much, what is read of the file says nothing.
      def count(bytes)
        @read += bytes
        raise Unreadable, "the file unpacks to more than #{@limit / 1_000_000} MB" if @read > @limit
        return if @read < @pulse_at

        @pulse_at = @read + PULSE
        @pulse&.call
      end

      def decode(line)
        line.chomp!
        unless @encoding == Encoding::UTF_8
          return line.force_encoding(@encoding).encode(Encoding::UTF_8, invalid: :replace, undef: :replace)
        end

        line.force_encoding(Encoding::UTF_8)
        line.valid_encoding? ? line : line.force_encoding(Encoding::BINARY)
      end
    end
  end
end
