# frozen_string_literal: true

# What chances as of a day are told by.
class KeepChanceModels < ActiveRecord::Migration[7.2]
  def change
    create_table :chance_models do |t|
      t.string :kind, limit: 20, null: false
      t.integer :days, null: false
      t.date :as_of, null: false
      t.string :basis, limit: 64, null: false
      t.json :model, null: false
      t.datetime :created_at, precision: 6, null: false
      t.index %i[kind days as_of basis], unique: true
    end
  end
end
