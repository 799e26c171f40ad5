# frozen_string_literal: true

module EstrelServer
  module LedgerBuilding
    # Gets large answers out of the database as Polars frames: they are written to files, which Polars reads.
    #
    # A database beside writes them itself, and no row passes through a Ruby object; from one elsewhere they come over
    # the connection. While one answer is read, the next is already written.
    class Dump
      # A character that occurs in no field; nothing is ever quoted, since identifiers and names hold no control
      # characters and JSON escapes them.
      NO_QUOTE = "\x01"
      # What is written where there is nothing.
      NOTHING = "NULL"
      private_constant :NOTHING

      # @param settings [Settings]
      # @param profiles [Polars::Series, Range<Integer>, nil] ids of those that are wanted; nil for all
      def initialize(settings, profiles = nil)
        @settings = settings
        @writing = method(Database.new(settings).beside? ? :outfile : :fetch)
        @profiles = profiles
      end

      # @param range [Range<Integer>] of profile ids
      # @return [Dump] of these only
      def within(range)
        Dump.new(@settings, @profiles.is_a?(Polars::Series) ? Known.ids_within(@profiles, range) : range)
      end

      # @param column [String] that holds a profile's id
      # @return [String] a condition that only those fulfil that are wanted
      def wanted(column)
        case @profiles
        when nil then "TRUE"
        when Range then "#{column} BETWEEN #{@profiles.begin} AND #{@profiles.end}"
        else @profiles.len.zero? ? "FALSE" : "#{column} IN (#{@profiles.to_a.join(",")})"
        end
      end

      # @return [String] path of a new file, for what waits to be written into the ledger
      def file = @settings.exchange_file("ledger")

      # @param statements [Array<String>] SELECTs
      # @param columns [Hash{String => Class}] name to Polars type of every column, in order
      # @param nullable [Array<String>] the columns that can hold nothing; in the others, NULL is a word like others
      # @param also [#call, nil] reads what else belongs to a statement, given the connection and the statement's
      #   number: the connection is in use for the next one already when the block gets the rows
      # @yieldparam frame [Polars::DataFrame] of one statement; statements without rows are left out
      # @yieldparam found [Object, nil] what `also` returned
      # @return [void]
      def each(statements, columns, nullable: [], also: nil)
        ahead = nil
        statements.each_with_index do |statement, index|
          path, found = (ahead || write_later(statement, index, also)).value
          ahead = statements[index + 1] && write_later(statements[index + 1], index + 1, also)
          yield read(path, columns, nullable), found unless File.empty?(path)
        ensure
          FileUtils.rm_f(path) if path
        end
      end

      private

      # On the connection of the thread that asks, so that all answers come from its snapshot; it waits for the answer
      # before it uses the connection again.
      def write_later(statement, index, also)
        path = file
        connection = Record.connection
        Thread.new do
          @writing.call(connection, statement, path)
          [path, also&.call(connection, index)]
        end
      end

      def outfile(connection, statement, path)
        connection.execute("#{statement} INTO OUTFILE #{connection.quote(path)} " \
                           "FIELDS TERMINATED BY '\\t' ESCAPED BY ''")
      end

      # Fields are whole numbers and text, which are written as the database would.
      def fetch(connection, statement, path)
        File.open(path, "wb", 0o600) do |file|
          connection.select_rows(statement).each do |row|
            file << row.map { |field| field.nil? ? NOTHING : field }.join("\t") << "\n"
          end
        end
      end

      def read(path, columns, nullable)
        given = columns.keys.each_with_index.to_h { |name, index| ["column_#{index + 1}", name] }
        types = given.to_h { |column, name| [column, columns.fetch(name)] }
        nothing = given.invert.slice(*nullable).values.to_h { |column| [column, NOTHING] }
        Polars.read_csv(path, has_header: false, sep: "\t", quote_char: NO_QUOTE, dtypes: types,
                              null_values: nothing.empty? ? nil : nothing)
              .rename(given)
      end
    end
  end
end
