# frozen_string_literal: true

require "xsv"

module EstrelServer
  module Importing
    # Sheets of spreadsheet files (.xlsx, ECMA-376) are written out as CSV before they are read, one sheet an import.
    module Spreadsheet
      MAGIC = "PK\x03\x04".b.freeze
      # The part of the zip archive by which such a file shows.
      BOOK = "xl/workbook.xml"
      # In it, what says that days are counted from 1904.
      OTHER_FIRST_DAY = /\bdate1904="(?:1|true)"/
      # Texts of all sheets are held in memory while a sheet is read.
      LARGEST = 500_000_000
      # Bytes without an end of a tag, or without a beginning; a cell holds 32,767 characters at most, and the library
      # takes time by the square of this.
      LONGEST_RUN = 1 << 20
      PART = 1 << 16
      private_constant :BOOK, :OTHER_FIRST_DAY, :LARGEST, :LONGEST_RUN, :PART

      # Times to the second, and by no time zone; the library rounds them to minutes in the server's zone.
      module ExactTimes
        # What a day is counted from (ECMA-376, part 1, 18.17.4.1).
        FIRST = Time.utc(1899, 12, 30)

        # @param number [Numeric] days
        # @return [String]
        def parse_datetime(number) = (FIRST + (number * 86_400).round).strftime("%Y-%m-%dT%H:%M:%S")

        # @param number [Numeric] days
        # @return [String] the time of the day
        def parse_time(number) = (FIRST + (number * 86_400).round).strftime("%H:%M:%S").delete_suffix(":00")
      end
      Xsv::SheetRowsHandler.prepend(ExactTimes)

      # Texts that are written within their cells count; the library overlooks them where a sheet does not say its size.
      module TextsWithin
        # @param name [String] of an XML element
        # @param attributes [Hash]
        # @return [void]
        def start_element(name, attributes) = super(name == "is" ? "v" : name, attributes)
      end
      Xsv::SheetBoundsHandler.prepend(TextsWithin)

      module_function

      # @param path [String]
      # @return [Boolean] whether it is a zip archive, as spreadsheets are and no text is
      def spreadsheet?(path) = File.binread(path, MAGIC.bytesize) == MAGIC

      # @param path [String]
      # @param bytes [Numeric] how large the file may unpack to
      # @return [Array<String>] names of the sheets, the first one with more than a heading first
      # @raise [InputFile::Unreadable]
      def sheets(path, bytes)
        opened(path, bytes) do |book|
          book.sheets.partition do |sheet|
            rows(sheet).first(2).size == 2
          end.flatten.map(&:name)
        end
      end

      # @param path [String]
      # @param name [String] of the sheet
      # @param target [String] path of the CSV file to write
      # @param limit [Integer, nil] how many rows are wanted below the heading; nil for all
      # @param bytes [Numeric] how large the file may unpack to
      # @return [void]
      # @raise [InputFile::Unreadable]
      def write_csv(path, name, target, bytes:, limit: nil)
        opened(path, bytes) do |book|
          sheet = book.sheets.find { |one| one.name == name }
          raise InputFile::Unreadable, "the file has no sheet #{name.inspect}" unless sheet

          wanted = limit ? rows(sheet).take(limit + 1) : rows(sheet)
          CSV.open(target, "w") { |csv| wanted.each { |row| csv << row.map { |cell| text(cell) } } }
        end
      end

      # Those that hold anything; all are equally wide.
      def rows(sheet) = sheet.each.lazy.reject { |row| row.all?(&:nil?) }
      private_class_method :rows

      def text(cell)
        whole = cell.is_a?(Float) && (cell % 1).zero? && cell.abs < 1e15
        (whole ? cell.to_i : cell).to_s
      end
      private_class_method :text

      def opened(path, bytes)
        check(path, bytes)
        book = Xsv.open(path)
        yield book
      rescue Zip::Error, Xsv::Error, ArgumentError, NoMethodError, TypeError => e
        raise InputFile::Unreadable, "the spreadsheet cannot be read: #{e.message.lines.first.to_s.strip[0, 200]}"
      ensure
        book&.close
      end
      private_class_method :opened

      def check(path, bytes)
        Zip::File.open(path) do |archive|
          unless archive.find_entry(BOOK)
            raise InputFile::Unreadable,
                  "the file is a zip archive and no spreadsheet; unpack it first"
          end

          most = [bytes, LARGEST].min
          large = archive.sum(&:size) > most
          raise InputFile::Unreadable, "the file unpacks to more than #{(most / 1_000_000).to_i} MB" if large

          odd = archive.any? { |entry| entry.name.end_with?(".xml", ".rels") && endless?(entry) }
          raise InputFile::Unreadable, "the spreadsheet has a cell without an end" if odd

          other = archive.read(BOOK).match?(OTHER_FIRST_DAY)
          raise InputFile::Unreadable, "the spreadsheet counts its days from 1904; save it as CSV" if other
        end
      end
      private_class_method :check

      def endless?(entry)
        since = { "<" => 0, ">" => 0 }
        stream = entry.get_input_stream
        while (part = stream.read(PART))
          since.each_key { |sign| since[sign] = part.include?(sign) ? 0 : since[sign] + part.bytesize }
          return true if since.values.max > LONGEST_RUN
        end
        false
      end
      private_class_method :endless?
    end
  end
end
