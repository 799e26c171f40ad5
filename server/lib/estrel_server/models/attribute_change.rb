# frozen_string_literal: true

module EstrelServer
  # Attribute values of a profile have been added since the ledger of everybody was written.
  class AttributeChange < Record
    # @param profiles [Array<Integer>]
    # @return [void]
    def self.note(profiles) = Importing::SQL.load("attribute_changes", "profile_id", profiles.uniq.zip)
  end
end
