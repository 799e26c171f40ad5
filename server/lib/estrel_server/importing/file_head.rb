# frozen_string_literal: true

module EstrelServer
  module Importing
    # The first rows of a file, from which its form and the types of its columns are found out.
    class FileHead
      # Rows that are wanted, and how many are looked at for them.
      SAMPLE = 200
      LOOKED_AT = 5_000

      # @param values [Array<Hash>] of the first rows of a CSV file
      # @param mapping [Mapping]
      # @return [Hash{String => String}] type by column
      def self.column_types(values, mapping)
        columns = values.first&.keys || ["no rows"]
        columns.to_h do |column|
          texts = values.map { |row| row[column] }
          [column, mapping.types[column] || Values.column_type(texts, comma: mapping.decimal_comma?)]
        end
      end

      # @param open [#call] gives the {InputFile}, to be read from its start
      def initialize(open)
        @open = open
      end

      # @return [Boolean] whether its lines are JSON objects
      def json?
        return @json unless @json.nil?

        first = nil
        @open.call.each_line { |line, _| break first = line unless line.strip.empty? }
        @json = first.to_s.lstrip.start_with?("{")
      end

      # @param flat [Boolean] whether JSON is read like a table
      # @return [Class] what reads the rows
      def form(flat)
        return CsvRows unless json?

        flat ? FlatRows : JsonRows
      end

      # @param flat [Boolean]
      # @return [Array<Hash>] values of the first usable rows
      def rows(flat: false)
        found = []
        seen = 0
        form(flat).new(@open.call).each do |row|
          seen += 1
          found << row.values unless row.fault
          break if found.size >= SAMPLE || seen >= LOOKED_AT
        rescue EventReader::Unusable
          next # it will be refused when its turn comes
        end
        found
      end
    end
  end
end
