# frozen_string_literal: true

# Pages of saved analyses with text between them, what is said about them, and where they have been sent.
class WritePages < ActiveRecord::Migration[7.2]
  INSTANT = { precision: 6, null: false }.freeze

  def change
    # As the API takes the question; what was kept before cannot be drawn on a page until it is kept again.
    add_column :saved_analysis_versions, :asks, :json

    create_table :pages do |t|
      t.string :name, limit: 255, null: false
      t.json :blocks, null: false
      t.json :schedule
      t.references :destination, foreign_key: true
      t.datetime :next_run_at, precision: 6
      t.datetime :deleted_at, precision: 6
      t.references :owner, foreign_key: { to_table: :accounts, on_delete: :nullify }
      t.boolean :private, null: false, default: false
      t.datetime :created_at, **INSTANT
      t.datetime :updated_at, **INSTANT
      t.index :next_run_at
    end

    create_table :page_comments do |t|
      t.references :page, null: false, foreign_key: { on_delete: :cascade }
      t.references :account, foreign_key: { on_delete: :nullify }
      t.string :author, limit: 100, null: false, default: ""
      t.string :text, limit: 2000, null: false
      t.datetime :created_at, **INSTANT
    end

    create_table :page_runs do |t|
      t.references :page, null: false, foreign_key: { on_delete: :cascade }
      t.date :as_of, null: false
      t.string :state, limit: 20, null: false, default: "queued"
      t.string :error, limit: 500
      t.string :file_name, limit: 255
      t.string :started_by, limit: 20, null: false, default: "hand"
      t.string :token, limit: 36, null: false
      t.datetime :created_at, **INSTANT
      t.datetime :finished_at, precision: 6
    end
  end
end
