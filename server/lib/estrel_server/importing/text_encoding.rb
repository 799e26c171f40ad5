# frozen_string_literal: true

module EstrelServer
  module Importing
    # In which encoding a text file is written, as detected from its bytes or chosen by the user.
    module TextEncoding
      UTF8 = "utf-8"
      # Their names in mappings, and Ruby's.
      NAMES = { UTF8 => Encoding::UTF_8, "windows-1252" => Encoding::Windows_1252, "iso-8859-1" => Encoding::ISO_8859_1,
                "utf-16le" => Encoding::UTF_16LE, "utf-16be" => Encoding::UTF_16BE }.freeze
      WIDE = %w[utf-16le utf-16be].freeze
      MARKS = { "\xEF\xBB\xBF" => UTF8, "\xFF\xFE" => "utf-16le", "\xFE\xFF" => "utf-16be" }.transform_keys(&:b).freeze
      # Bytes that are looked at.
      HEAD = 8 << 20
      # Of the beginning, for the zero bytes by which UTF-16 shows.
      START = 4096
      private_constant :HEAD, :START

      module_function

      # What is no UTF-8 is taken for Windows-1252, which has a character for nearly every byte and holds Latin-1.
      # JSON is UTF-8 by RFC 8259, and so is a table with a few damaged bytes among many letters that are UTF-8.
      #
      # @param path [String] plain or gzip
      # @return [String] of {NAMES}
      def detect(path)
        head = InputFile.head(path, HEAD)
        marked(head) || wide(head.byteslice(0, START)) || (json?(head) || utf8?(head) ? UTF8 : "windows-1252")
      end

      def marked(head) = MARKS.find { |mark, _| head.start_with?(mark) }&.last
      private_class_method :marked

      # Text in Latin letters has a zero in every other byte.
      def wide(start)
        zeros = start.each_byte.with_index.filter_map { |byte, at| at % 2 if byte.zero? }.tally
        return if zeros.values.sum < start.bytesize / 5

        zeros.fetch(1, 0) > zeros.fetch(0, 0) ? "utf-16le" : "utf-16be"
      end
      private_class_method :wide

      def json?(head) = head.match?(/\A\s*[{\[]/n)
      private_class_method :json?

      # The head may end within a character.
      def utf8?(head)
        damaged = 0
        text = head.dup.force_encoding(Encoding::UTF_8).scrub do
          damaged += 1
          ""
        end
        letters = text.count("^\u0000-\u007F")
        damaged.zero? || damaged < letters || (damaged == 1 && cut_off?(head))
      end
      private_class_method :utf8?

      def cut_off?(head)
        head.bytesize == HEAD && (1..3).any? { |cut| head.byteslice(0, HEAD - cut).force_encoding(Encoding::UTF_8).valid_encoding? }
      end
      private_class_method :cut_off?
    end
  end
end
