# frozen_string_literal: true

module EstrelServer
  module BackingUp
    # Has rows loaded before the indexes on them are made. An index on rows that are there is sorted once; one that is
    # kept up while millions come is looked for a place in with each.
    class LateIndexes
      CREATE = /\ACREATE TABLE `(\w+)` \(\n/
      # In what is written out each column, index and constraint has a line.
      LATE = /\A  (?:UNIQUE |FULLTEXT |SPATIAL )?KEY |\A  CONSTRAINT `\w+` FOREIGN KEY / # linear: one run
      LOADED = "UNLOCK TABLES;"
      private_constant :CREATE, :LATE, :LOADED

      # @param statement [String] of what `mariadb-dump` has written, in order
      # @return [Array<String>] what is to be done instead
      def instead(statement)
        return [without(statement)] if CREATE.match?(statement)
        return [statement] unless @late&.any? && statement.start_with?(LOADED)

        late = "ALTER TABLE `#{@table}` ADD #{@late.join(", ADD ")};\n"
        @late = nil
        [statement, late]
      end

      private

      def without(statement)
        @table = statement[CREATE, 1]
        head, *lines, tail = statement.lines
        late, kept = lines.partition { |line| LATE.match?(line) }
        return statement if late.empty?

        @late = late.map { |line| line.strip.delete_suffix(",") }
        [head, kept.map { |line| line.chomp.delete_suffix(",") }.join(",\n"), "\n", tail].join
      end
    end
  end
end
