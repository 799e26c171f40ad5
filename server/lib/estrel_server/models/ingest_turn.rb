# frozen_string_literal: true

module EstrelServer
  # One row; whoever stores a batch holds its lock, so what is received has one order. It counts every change that makes
  # a remembered owner of an identifier wrong, and the attribute values that have been added; and the turns themselves,
  # so that where the database has several servers, of two that take it on different ones the later fails as a whole.
  class IngestTurn < Record
    # Waits for the turn; it ends with the transaction.
    #
    # @return [Integer] the version of who holds which identifier
    def self.take
      connection.execute("UPDATE ingest_turns SET number = number + 1")
      connection.select_value("SELECT identity_version FROM ingest_turns")
    end

    # @param count [Integer] of attribute values that have been added
    # @return [void]
    def self.values_stored(count)
      return if count.zero?

      connection.execute("UPDATE ingest_turns SET attribute_values_stored = attribute_values_stored + #{count}")
    end

    # Tells everybody who remembers owners of identifiers to forget them.
    #
    # @return [void]
    def self.owners_changed = connection.execute("UPDATE ingest_turns SET identity_version = identity_version + 1")
  end
end
