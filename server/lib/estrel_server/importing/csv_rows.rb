# frozen_string_literal: true

module EstrelServer
  module Importing
    # The rows of a CSV file (RFC 4180) as hashes of header to text.
    #
    # Lines are joined while a quoted field is open, up to a limit. A row without quotes is split directly, ordinary
    # quoted ones are read many at a time by Polars, and whatever departs from that by the CSV library, which says what
    # is wrong.
    class CsvRows
      MAX_ROW = InputFile::MAX_LINE
      SEPARATORS = [",", ";", "\t"].freeze
      # Rows that are taken apart together.
      BLOCK = 2_000

      # A row before it is taken apart.
      Record = Struct.new(:number, :text, :fault, :fields)

      # @param header [String] the first line of a file
      # @return [String] what lies between its fields
      def self.separator(header) = SEPARATORS.max_by { |separator| header.count(separator) }

      # @param input [InputFile]
      def initialize(input)
        @input = input
      end

      # @yieldparam row [Row] values is nil where the row is unusable
      # @return [void]
      def each(&)
        number = 0
        block = []
        records do |text, fault|
          number += 1
          next header(text, fault) if @headers.nil?

          block << Record.new(number, text, fault)
          block = give(block, &) if block.size >= BLOCK
        end
        give(block, &)
        raise InputFile::Unreadable, "the file is empty" if @headers.nil?
      end

      private

      def header(record, fault)
        raise InputFile::Unreadable, "the header line cannot be read: #{fault}" if fault

        @separator = CsvRows.separator(record)
        @headers = CSV.parse_line(record, col_sep: @separator).map { |name| name.to_s.strip.freeze }
        twice = @headers.tally.select { |name, count| count > 1 || name.empty? }.keys
        @quoted = QuotedRows.new(@separator, @headers.size)
        return if twice.empty?

        names = twice.map(&:inspect).join(", ")
        raise InputFile::Unreadable, "column names must be unique and not empty: #{names}"
      rescue CSV::MalformedCSVError => e
        raise InputFile::Unreadable, "the header line cannot be read: #{e.message}"
      end

      def give(block)
        return [] if block.empty?

        @quoted.read(block.reject(&:fault))
        block.each { |record| yield row(record) }
        []
      end

      def row(record)
        return Row.new(record.number, record.text, nil, record.fault) if record.fault

        fields = record.fields
        return plain_row(record) unless fields || record.text.include?('"')

        fields ||= CSV.parse_line(record.text, col_sep: @separator)
        return misfit(record, fields.size) if fields.size != @headers.size

        Row.new(record.number, record.text, @headers.zip(fields).to_h)
      rescue CSV::MalformedCSVError => e
        Row.new(record.number, record.text, nil, "the row is not valid CSV: #{e.message}")
      end

      def plain_row(record)
        size = record.text.count(@separator) + 1
        size == @headers.size ? PlainRow.new(record.number, record.text, @headers, @separator) : misfit(record, size)
      end

      def misfit(record, size)
        Row.new(record.number, record.text, nil, "the row has #{size} fields where the header has #{@headers.size}")
      end

      # Yields logical records: one line, or several while a quote is open. One that grows beyond the limit ends there,
      # and reading goes on with the next line.
      def records
        open = nil
        quotes = 0
        @input.each_line do |line, too_long|
          fault = line_fault(line, too_long)
          quotes += line.count('"')
          record = open && !fault ? open << "\n" << line : line
          if fault || record.bytesize > MAX_ROW
            yield record, fault || "the row is longer than #{MAX_ROW} bytes; a quoted field may never be closed"
          elsif quotes.odd?
            next open = +record
          else
            yield record, nil unless record.empty?
          end
          open = nil
          quotes = 0
        end
        yield open, "a quoted field is never closed" if open
      end

      def line_fault(line, too_long)
        return "the row is longer than #{MAX_ROW} bytes" if too_long

        "the row is not valid UTF-8" if line.encoding == Encoding::BINARY
      end
    end
  end
end
