# frozen_string_literal: true

# Destinations that are spoken to over HTTPS: their secrets, what of a run has been pushed, and whom they refused.
class PushExports < ActiveRecord::Migration[7.2]
  INSTANT = { precision: 6, null: false }.freeze

  def up
    remove_check_constraint :destinations, name: "destination_kind"
    add_check_constraint :destinations, "kind IN ('folder', 'webhook')", name: "destination_kind"
    add_column :destinations, :secret, :text
    add_column :exports, :seen_ledger, :string, limit: 255
    change_runs
    create_batches
    create_refusals
  end

  private

  def change_runs
    change_table(:export_runs) do |t|
      t.string :token, limit: 36
      t.integer :rows_before, null: false, default: 0
      t.integer :refused_count, null: false, default: 0
    end
    execute("UPDATE export_runs SET token = UUID()")
    change_column_null :export_runs, :token, false
    add_index :export_runs, :token, unique: true
  end

  def create_batches
    create_table(:push_batches) do |t|
      t.references :export_run, null: false, foreign_key: { on_delete: :cascade }, index: false
      t.integer :number, null: false
      t.string :file_name, limit: 255, null: false
      t.bigint :first_byte, null: false
      t.bigint :bytes, null: false
      t.integer :row_count, null: false
      t.string :state, limit: 16, null: false, default: "waiting"
      t.integer :attempts, null: false, default: 0
      t.integer :refused_count, null: false, default: 0
      t.datetime :next_attempt_at, precision: 6
      t.datetime :taken_at, precision: 6
      t.string :error, limit: 500
      t.index %i[export_run_id number], unique: true
      t.index %i[export_run_id state]
      t.check_constraint "state IN ('waiting', 'taken')", name: "batch_state"
    end
  end

  def create_refusals
    create_table(:push_refusals) do |t|
      t.references :push_batch, null: false, foreign_key: { on_delete: :cascade }, index: false
      t.bigint :profile_id, null: false
      t.string :recipient_key, limit: 64, null: false
      t.string :reason, limit: 500, null: false
      t.boolean :again, null: false, default: false
      t.index %i[push_batch_id recipient_key], unique: true
    end
  end
end
