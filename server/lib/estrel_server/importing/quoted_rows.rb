# frozen_string_literal: true

module EstrelServer
  module Importing
    # Takes ordinary rows with quoted fields apart, many at a time: every quote opens or closes a whole field, and there
    # are as many fields as the header has. Decides nothing: what departs from that is left as it is.
    class QuotedRows
      # @param separator [String]
      # @param columns [Integer]
      def initialize(separator, columns)
        @separator = separator
        @columns = columns
        field = "(?:\"(?:[^\"]|\"\")*+\"|[^\"\n#{separator}]*+)"
        @ordinary = /\A#{field}(?:#{separator}#{field})*+\z/ # linear: possessive throughout
        @field = /"(?:[^"]|"")*+"/ # linear: possessive
      end

      # @param records [Array<CsvRows::Record>] whose `fields` are set where they could be read
      # @return [void]
      def read(records)
        ordinary = records.select { |record| ordinary?(record.text) }
        return if ordinary.empty?

        frame = Polars.read_csv(StringIO.new(ordinary.map(&:text).join("\n")), has_header: false, sep: @separator,
                                                                               infer_schema_length: 0)
        return unless frame.height == ordinary.size && frame.width == @columns

        ordinary.zip(frame.rows) { |record, fields| record.fields = fields }
      rescue Polars::Error
        nil
      end

      private

      def ordinary?(text)
        text.include?('"') && text.gsub(@field, "").count(@separator) == @columns - 1 && @ordinary.match?(text)
      end
    end
  end
end
