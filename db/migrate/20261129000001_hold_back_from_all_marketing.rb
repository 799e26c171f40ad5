# frozen_string_literal: true

# Holdouts over all marketing, and their step in the runs there are, which held nobody back by it.
class HoldBackFromAllMarketing < ActiveRecord::Migration[7.2]
  def up
    create_table :standing_holdouts do |t|
      t.float :share, limit: 53, null: false
      t.date :first_day, null: false, index: true
      t.date :last_day, null: false
      t.datetime :created_at, precision: 6, null: false
    end
    execute("UPDATE export_runs SET waterfall = JSON_INSERT(waterfall, '$.standing_holdout', 0) " \
            "WHERE waterfall IS NOT NULL")
  end
end
