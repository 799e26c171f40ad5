# frozen_string_literal: true

module EstrelServer
  module Importing
    # The rows of a CSV file (RFC 4180) as hashes of header to text.
    #
    # Lines are joined while a quoted field is open; a row without quotes is split directly, others by the CSV library.
    class CsvRows
      MAX_ROW = InputFile::MAX_LINE
      SEPARATORS = [",", ";", "\t"].freeze

      # @param input [InputFile]
      def initialize(input)
        @input = input
      end

      # @yieldparam row [Row] values is nil where the row is unusable
      # @return [void]
      def each
        number = 0
        records do |record, fault|
          number += 1
          next header(record, fault) if @headers.nil?

          values, fault = parse(record) unless fault
          yield Row.new(number, record, values, fault)
        end
        raise InputFile::Unreadable, "the file is empty" if @headers.nil?
      end

      private

      def header(record, fault)
        raise InputFile::Unreadable, "the header line cannot be read: #{fault}" if fault

        @separator = SEPARATORS.max_by { |separator| record.count(separator) }
        @headers = CSV.parse_line(record, col_sep: @separator).map { |name| name.to_s.strip.freeze }
        twice = @headers.tally.select { |name, count| count > 1 || name.empty? }.keys
        return if twice.empty?

        names = twice.map(&:inspect).join(", ")
        raise InputFile::Unreadable, "every column needs a name of its own; empty or repeated: #{names}"
      rescue CSV::MalformedCSVError => e
        raise InputFile::Unreadable, "the header line cannot be read: #{e.message}"
      end

      # Yields logical records: one line, or several while a quote is open.
      def records
        open = nil
        @input.each_line do |line, too_long|
          fault = line_fault(line, too_long)
          record = open && !fault ? "#{open}\n#{line}" : line
          if fault || record.bytesize > MAX_ROW
            yield record, fault || "the row is longer than #{MAX_ROW} bytes"
            open = nil
          elsif record.count('"').odd?
            open = record
          else
            open = nil
            yield record, nil unless record.empty?
          end
        end
        yield open, "a quoted field is never closed" if open
      end

      def line_fault(line, too_long)
        return "the row is longer than #{MAX_ROW} bytes" if too_long

        "the row is not valid UTF-8" if line.encoding == Encoding::BINARY
      end

      def parse(record)
        fields = record.include?('"') ? CSV.parse_line(record, col_sep: @separator) : record.split(@separator, -1)
        return [nil, "has #{fields.size} fields where the header has #{@headers.size}"] if fields.size != @headers.size

        [@headers.zip(fields).to_h, nil]
      rescue CSV::MalformedCSVError => e
        [nil, "is not valid CSV: #{e.message}"]
      end
    end
  end
end
