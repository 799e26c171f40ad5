# frozen_string_literal: true

module EstrelServer
  module Exporting
    # Writes rows as CSV (RFC 4180) or JSON Lines.
    class Format
      # Characters that make a spreadsheet take a cell for a formula when it begins with one.
      FORMULA = /\A[=+\-@\t\r]/
      # What a number looks like, which a leading minus does not make a formula.
      NUMBER = /\A-?\d+(?:\.\d+)?\z/

      # @param export [Export]
      # @return [Format]
      def self.for(export) = new(export.format, neutralise: export.neutralise_formulas)

      # @param name [String] "csv" or "jsonl"
      # @param neutralise [Boolean] put an apostrophe before cells a spreadsheet would take for a formula (CSV only)
      def initialize(name, neutralise: true)
        @name = name
        @neutralise = neutralise
      end

      # @param frame [Polars::DataFrame]
      # @param io [IO]
      # @return [void]
      def write(frame, io)
        headers = frame.columns.map { |column| column.delete_prefix("identifier:").delete_prefix("attribute:") }
        headers = frame.columns if headers.uniq.size < headers.size
        @name == "csv" ? csv(frame, headers, io) : json_lines(frame, headers, io)
      end

      private

      def csv(frame, headers, io)
        io.write(CSV.generate_line(headers, row_sep: "\r\n"))
        frame.iter_rows { |row| io.write(CSV.generate_line(row.map { |value| cell(value) }, row_sep: "\r\n")) }
      end

      def cell(value)
        text = plain(value)
        return text unless @neutralise && text.is_a?(String) && text.match?(FORMULA) && !text.match?(NUMBER)

        "'#{text}"
      end

      def json_lines(frame, headers, io)
        frame.iter_rows do |row|
          values = row.map { |value| plain(value) }
          io.write(Oj.dump(headers.zip(values).to_h, mode: :compat), "\n")
        end
      end

      def plain(value)
        case value
        when Float then (value % 1).zero? && value.abs < 1e15 ? value.to_i : value
        when Time, DateTime then value.iso8601
        else value
        end
      end
    end
  end
end
