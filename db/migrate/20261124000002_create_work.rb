# frozen_string_literal: true

# What an analyst makes: policies, audiences, imports and exports.
class CreateWork < ActiveRecord::Migration[7.2]
  NAME = { limit: 255, null: false }.freeze
  INSTANT = { precision: 6, null: false }.freeze
  STATES = "('queued', 'running', 'done', 'failed', 'cancelled')"

  def change
    create_table(:lifecycle_policies) do |t|
      t.string :name, **NAME, index: { unique: true }
      t.json :activity, null: false
      t.integer :new_for, null: false
      t.integer :active_within, null: false
      t.integer :churned_after, null: false
      t.datetime :updated_at, **INSTANT
      t.check_constraint "new_for >= 1 AND active_within >= 1 AND active_within < churned_after",
                         name: "policy_thresholds"
    end

    create_audiences
    create_imports
    create_exports
  end

  private

  def create_audiences
    create_table(:audiences) do |t|
      t.string :name, **NAME
      t.datetime :created_at, **INSTANT
      t.datetime :updated_at, **INSTANT
      t.datetime :deleted_at, precision: 6
    end

    create_table(:audience_versions) do |t|
      t.references :audience, null: false, foreign_key: true, index: false
      t.integer :number, null: false
      t.json :definition, null: false
      t.string :digest, limit: 64, null: false
      t.text :sentence, size: :medium, null: false
      t.datetime :created_at, **INSTANT
      t.index %i[audience_id number], unique: true
      t.check_constraint "number >= 1", name: "version_number"
    end
  end

  def create_imports
    create_table(:imports) do |t|
      t.string :kind, limit: 16, null: false
      t.string :file_name, **NAME
      t.string :path, limit: 1024, null: false
      t.string :content_digest, limit: 64
      t.json :mapping, null: false
      t.string :state, limit: 16, null: false, default: "queued"
      t.boolean :cancel_requested, null: false, default: false
      t.bigint :bytes_total, null: false, default: 0
      t.bigint :bytes_done, null: false, default: 0
      %i[rows_read stored already_known rejected conflicts].each { |count| t.bigint count, null: false, default: 0 }
      t.text :error
      t.datetime :observed_at, **INSTANT
      t.datetime :created_at, **INSTANT
      t.datetime :started_at, precision: 6
      t.datetime :finished_at, precision: 6
      t.index :content_digest
      t.check_constraint "kind IN ('events', 'profiles')", name: "import_kind"
      t.check_constraint "state IN #{STATES}", name: "import_state"
    end

    create_table(:rejects) do |t|
      t.references :import, null: false, foreign_key: { on_delete: :cascade }, index: false
      t.bigint :row_number, null: false
      t.string :reason, limit: 1000, null: false
      t.text :original, size: :medium, null: false
      t.boolean :conflict, null: false, default: false
      t.index %i[import_id row_number]
    end
  end

  def create_exports
    create_table(:exports) do |t|
      t.references :audience, null: false, foreign_key: true
      t.json :chosen_columns, null: false
      t.string :format, limit: 16, null: false
      t.boolean :neutralise_formulas, null: false, default: true
      t.datetime :created_at, **INSTANT
      t.check_constraint "format IN ('csv', 'jsonl')", name: "export_format"
    end

    create_table(:export_runs) do |t|
      t.references :export, null: false, foreign_key: true
      t.references :audience_version, null: false, foreign_key: true
      t.json :policy, null: false
      t.date :as_of, null: false
      t.string :state, limit: 16, null: false, default: "queued"
      t.bigint :row_count
      t.bigint :bytes
      t.string :sha256, limit: 64
      t.string :file_name, limit: 255
      t.text :error
      t.datetime :created_at, **INSTANT
      t.datetime :finished_at, precision: 6
      t.check_constraint "state IN #{STATES}", name: "run_state"
    end
  end
end
