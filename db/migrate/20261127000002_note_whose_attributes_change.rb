# frozen_string_literal: true

# Attribute values have no numbers, so whose have been added is noted beside: a refresh of the ledger reads these people
# instead of all. A row is deleted once a ledger of everybody holds what it tells of.
class NoteWhoseAttributesChange < ActiveRecord::Migration[7.2]
  def change
    create_table :attribute_changes do |table|
      table.bigint :profile_id, null: false
    end
  end
end
