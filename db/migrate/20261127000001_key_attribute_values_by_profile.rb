# frozen_string_literal: true

# Attribute values lie by profile in the table itself, so that storing one writes one place instead of three. What was
# added is told by a count, since there are no numbers any more.
class KeyAttributeValuesByProfile < ActiveRecord::Migration[7.2]
  def up
    add_column :ingest_turns, :attribute_values_stored, :bigint, null: false, default: 0
    execute("UPDATE ingest_turns SET attribute_values_stored = (SELECT COUNT(*) FROM attribute_values)")
    execute("ALTER TABLE attribute_values DROP COLUMN id, DROP PRIMARY KEY, DROP INDEX attribute_value_once, " \
            "ADD PRIMARY KEY (profile_id, attribute_definition_id, occurred_at)")
  end

  def down
    execute("ALTER TABLE attribute_values DROP PRIMARY KEY, ADD COLUMN id BIGINT PRIMARY KEY AUTO_INCREMENT FIRST, " \
            "ADD UNIQUE INDEX attribute_value_once (profile_id, attribute_definition_id, occurred_at)")
    remove_column :ingest_turns, :attribute_values_stored
  end
end
