# frozen_string_literal: true

# Properties of old events, many together, see EstrelServer::PropertyBlock. Nothing is packed by this.
class PackProperties < ActiveRecord::Migration[7.2]
  def change
    create_table :property_blocks do |t|
      t.bigint :first_event_id, null: false, index: { unique: true }
      t.bigint :last_event_id, null: false, index: { unique: true }
      t.binary :content, null: false, size: :medium
      t.datetime :created_at, null: false, precision: 6
    end
  end
end
