# frozen_string_literal: true

module EstrelServer
  module Importing
    # Builds the multi-row statements that bulk storing lives from.
    module SQL
      SPECIAL = /['\\]/
      private_constant :SPECIAL

      module_function

      # @return [ActiveRecord::ConnectionAdapters::AbstractAdapter]
      def connection = Record.connection

      # Quotes as the database reads utf8mb4 literals; the adapter's own quoting looks up its connection for each value,
      # which costs more than all else together in a bulk statement.
      #
      # @param value [String, Integer, nil]
      # @return [String, Integer]
      def quote(value)
        case value
        when Integer then value
        when nil then "NULL"
        else "'#{value.match?(SPECIAL) ? value.gsub(SPECIAL) { |found| found * 2 } : value}'"
        end
      end

      # @param rows [Array<Array>]
      # @return [String] "(1,'a'),(2,'b')"
      def tuples(rows) = rows.map { |row| "(#{row.map { |value| quote(value) }.join(",")})" }.join(",")

      # @param table [String]
      # @param columns [String] comma-separated
      # @param rows [Array<Array>]
      # @param suffix [String]
      # @return [void]
      def insert(table, columns, rows, suffix = "")
        return if rows.empty?

        connection.execute("INSERT INTO #{table} (#{columns}) VALUES #{tuples(rows)} #{suffix}")
      end

      # @param value [Object]
      # @return [String] JSON text without raw control characters
      def json(value) = JSON.generate(value)
    end
  end
end
