# frozen_string_literal: true

module EstrelServer
  module Importing
    # The rows of a JSON Lines file read like a table: nested objects give columns such as "user.id", lists stay as the
    # JSON they are.
    class FlatRows
      # @param input [InputFile]
      def initialize(input)
        @rows = JsonRows.new(input)
      end

      # @yieldparam row [Row]
      # @return [void]
      def each
        @rows.each do |row|
          yield Row.new(row.number, row.original, row.fault ? nil : flat(row.values), row.fault)
        rescue EventReader::Unusable => e
          yield Row.new(row.number, row.original, nil, e.message)
        end
      end

      private

      def flat(values, prefix = "", found = {})
        values.each do |name, value|
          case value
          when Hash then flat(value, "#{prefix}#{name}.", found)
          when Array then found["#{prefix}#{name}"] = JSON.generate(value)
          else found["#{prefix}#{name}"] = value
          end
        end
        found
      end
    end
  end
end
