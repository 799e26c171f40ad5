# frozen_string_literal: true

module EstrelServer
  module LedgerBuilding
    # One consistent view of the store for the time of a refresh: whatever is written meanwhile is not seen.
    #
    # Whoever stores a batch holds the ingest turn to its end, so row numbers are committed in order and a snapshot
    # holds every row up to the highest number it sees.
    class Snapshot
      TABLES = { "events" => "events", "merges" => "merges", "erasures" => "erasures",
                 "identifiers" => "identifiers", "moves" => "identifier_moves",
                 "profiles" => "profiles", "consents" => "consents" }.freeze
      MARKS = "SELECT #{TABLES.map do |name, table|
        "(SELECT COALESCE(MAX(id), 0) FROM #{table}) AS `#{name}`"
      end.join(", ")}," \
              "(SELECT attribute_values_stored FROM ingest_turns) AS `attribute_values`," \
              "(SELECT catalogue_version FROM workspaces) AS `catalogue`".freeze

      # What stands in the store now, one number per kind of change; equal marks mean that nothing has changed.
      #
      # @return [Hash{String => Integer}]
      def self.marks = Record.connection.select_one(MARKS)

      # Begins with one, which replaces the one before on this connection.
      #
      # @return [Array] what the block of {open} is given
      def self.begin
        Record.connection.execute("START TRANSACTION WITH CONSISTENT SNAPSHOT")
        [marks, AttributeChange.maximum(:id) || 0]
      end

      # @yieldparam marks [Hash{String => Integer}] with that of the attribute changes noted, which are deleted after
      #   a while
      # @return [Object] the block's result
      def self.open
        yield(*self.begin)
      ensure
        Record.connection.execute("COMMIT")
      end
    end
  end
end
