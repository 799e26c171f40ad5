# frozen_string_literal: true

# What people note on dates, and analyses that are kept under a name.
class KeepAnalyses < ActiveRecord::Migration[7.2]
  INSTANT = { precision: 6, null: false }.freeze

  def change
    create_table :annotations do |t|
      t.date :date, null: false
      t.string :text, limit: 200, null: false
      owned(t)
      t.index :date
    end

    create_table :saved_analyses do |t|
      t.string :name, limit: 255, null: false
      t.string :folder, limit: 100, null: false, default: ""
      t.string :note, limit: 2000, null: false, default: ""
      t.datetime :deleted_at, precision: 6
      owned(t)
    end

    create_table :saved_analysis_versions do |t|
      t.references :saved_analysis, null: false, foreign_key: true, index: false
      t.integer :number, null: false
      t.string :analysis, limit: 64, null: false
      t.json :question, null: false
      t.string :author, limit: 100, null: false, default: ""
      t.datetime :created_at, **INSTANT
      t.index %i[saved_analysis_id number], unique: true
    end
  end

  private

  def owned(table)
    table.references :owner, foreign_key: { to_table: :accounts, on_delete: :nullify }
    table.boolean :private, null: false, default: false
    table.datetime :created_at, **INSTANT
    table.datetime :updated_at, **INSTANT
  end
end
