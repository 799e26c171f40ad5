# frozen_string_literal: true

module EstrelServer
  module Importing
    # Builds the multi-row statements that bulk storing lives from.
    module SQL
      SPECIAL = /['\\]/
      # What would end a field or a line of a file to load.
      BREAKING = /[\\\t\n]/
      # From so many rows on a file is faster than a statement.
      WORTH_A_FILE = 2_000
      private_constant :SPECIAL, :BREAKING, :WORTH_A_FILE

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

      # The same as {insert}, for a table that numbers its rows. To be used inside a transaction that holds the ingest
      # turn, so that nobody else adds any. The numbers need not follow each other: of several database servers each
      # gives every third, say.
      #
      # @param table [String]
      # @param columns [String] comma-separated
      # @param rows [Array<Array>]
      # @return [Array<Integer>] their numbers, in order
      def insert_numbered(table, columns, rows)
        return [] if rows.empty?

        insert(table, columns, rows)
        connection.select_values("SELECT id FROM #{table} WHERE id >= LAST_INSERT_ID() " \
                                 "ORDER BY id LIMIT #{rows.size}")
      end

      # The same as {insert}, through a file where that is faster and can be. The rows' foreign keys were read or made
      # in this very transaction, under the ingest turn that every change of them needs, so they are not looked up
      # again.
      #
      # @param table [String]
      # @param columns [String] comma-separated
      # @param rows [Array<Array>]
      # @return [void]
      def load(table, columns, rows)
        return in_statements(table, columns, rows) if rows.size < WORTH_A_FILE || !files?

        path = EstrelServer.settings.exchange_file(table)
        File.open(path, "w") { |file| rows.each { |row| file << row.map { |value| field(value) }.join("\t") << "\n" } }
        connection.execute("SET SESSION foreign_key_checks = 0")
        connection.execute("LOAD DATA INFILE #{quote(path)} INTO TABLE #{table} CHARACTER SET utf8mb4 (#{columns})")
      ensure
        connection.execute("SET SESSION foreign_key_checks = 1") if path
        FileUtils.rm_f(path) if path
      end

      # @return [Boolean] whether the database reads files of this machine
      def files? = Database.new(EstrelServer.settings).beside?

      # Stores rows in as many statements as a database takes at its usual settings.
      #
      # @param table [String]
      # @param columns [String] comma-separated
      # @param rows [Array<Array>]
      # @return [void]
      def in_statements(table, columns, rows)
        rows.each_slice(WORTH_A_FILE) { |some| insert(table, columns, some) }
      end

      def field(value)
        case value
        when Integer then value
        when nil then "\\N"
        else value.match?(BREAKING) ? value.gsub(BREAKING) { |found| "\\#{found}" } : value
        end
      end
      private_class_method :field

      # @param value [Object]
      # @return [String] JSON text without raw control characters
      def json(value) = JSON.generate(value)
    end
  end
end
