# frozen_string_literal: true

# Groups of one's own by which people are told apart: seasons, tenths of a chance.
class KeepGroupings < ActiveRecord::Migration[7.2]
  INSTANT = { precision: 6, null: false }.freeze

  def change
    create_table :groupings do |t|
      t.string :name, limit: 255, null: false
      t.json :groups, null: false
      t.string :author, limit: 100, null: false, default: ""
      t.datetime :deleted_at, precision: 6
      t.datetime :created_at, **INSTANT
      t.datetime :updated_at, **INSTANT
    end
  end
end
