# frozen_string_literal: true

require "digest"

module EstrelServer
  module BackingUp
    # Reads SQL that was written out of a database, statement by statement, and tells how many rows each table has and
    # what their digest is: two databases with the same rows have the same digests.
    class Tables
      # No row holds this: a line break in a value is written otherwise.
      STATEMENT_END = ";\n"
      TABLE = /\ACREATE TABLE `(\w+)`/
      ROWS = "INSERT INTO "
      # linear: each run ends at a sign of its own
      LOG = /^-- CHANGE MASTER TO MASTER_LOG_FILE='([^']+)', MASTER_LOG_POS=(\d+)/
      private_constant :TABLE, :ROWS, :LOG

      # @return [Hash{String => Object}, nil] `file` and `position` of the binary log at the instant of the SQL
      attr_reader :log

      def initialize
        @rows = Hash.new(0)
        @digests = {}
      end

      # @param statement [String]
      # @return [void]
      def read(statement)
        return rows(statement) if statement.start_with?(ROWS)

        if (name = statement[TABLE, 1])
          @table = name
          @digests[name] = Digest::SHA256.new
        elsif (found = LOG.match(statement))
          @log = { "file" => found[1], "position" => found[2].to_i }
        end
      end

      # @return [Hash{String => Hash{String => Object}}] by table `rows` and `digest`
      def to_h = @digests.to_h { |name, digest| [name, { "rows" => @rows[name], "digest" => digest.hexdigest }] }

      private

      # A line each, after the first.
      def rows(statement)
        @rows[@table] += statement.count("\n") - 1
        @digests[@table] << statement
      end
    end
  end
end
