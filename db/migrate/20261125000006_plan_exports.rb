# frozen_string_literal: true

# Exports become plans with a name, a destination, and rules of who is kept back; runs keep the plan they carried out
# and what became of everybody; lists of addresses that are not contacted; holdouts that plans can share.
class PlanExports < ActiveRecord::Migration[7.2]
  INSTANT = { precision: 6, null: false }.freeze
  STATES = "('queued', 'waiting', 'running', 'done', 'failed', 'cancelled')"

  def up
    create_destinations
    create_lists
    create_holdouts
    change_exports
    change_runs
  end

  private

  def create_destinations
    create_table(:destinations) do |t|
      t.string :name, limit: 255, null: false
      t.string :kind, limit: 16, null: false
      t.json :settings, null: false
      t.datetime :created_at, **INSTANT
      t.datetime :deleted_at, precision: 6
      t.check_constraint "kind IN ('folder')", name: "destination_kind"
    end
  end

  def create_lists
    create_table(:contact_lists) do |t|
      t.string :name, limit: 255, null: false, index: { unique: true }
      t.string :kind, limit: 64, null: false
      t.datetime :created_at, **INSTANT
      t.datetime :updated_at, **INSTANT
    end
    create_table(:contact_list_entries) do |t|
      t.references :contact_list, null: false, foreign_key: { on_delete: :cascade }, index: false
      t.string :digest, limit: 64, null: false
      t.index %i[contact_list_id digest], unique: true
    end
  end

  def create_holdouts
    create_table(:holdouts) do |t|
      t.string :name, limit: 255, null: false, index: { unique: true }
      t.float :share, limit: 53
      t.integer :number
      t.bigint :places
      t.datetime :created_at, **INSTANT
      t.check_constraint "(share IS NULL) <> (number IS NULL)", name: "holdout_share_or_number"
    end
  end

  def change_exports
    change_table(:exports) do |t|
      t.string :name, limit: 255, null: false, default: ""
      t.references :pinned_version, foreign_key: { to_table: :audience_versions }
      t.references :destination, foreign_key: true
      t.json :rules
      t.datetime :updated_at, precision: 6
      t.datetime :deleted_at, precision: 6
    end
    execute(<<~SQL)
      UPDATE exports e JOIN audiences a ON a.id = e.audience_id SET
        e.name = CONCAT(LEFT(a.name, 200), ' ', e.id), e.updated_at = e.created_at,
        e.rules = JSON_OBJECT('columns', JSON_EXTRACT(e.chosen_columns, '$'),
                              'file', JSON_OBJECT('format', e.format, 'neutralise', e.neutralise_formulas = 1))
    SQL
    remove_check_constraint :exports, name: "export_format"
    remove_columns :exports, :chosen_columns, :format, :neutralise_formulas
    change_column_null :exports, :rules, false
    change_column_null :exports, :updated_at, false
  end

  def change_runs
    change_table(:export_runs) do |t|
      t.json :rules
      t.date :known_on
      t.json :waterfall
      t.text :manifest, size: :medium
      t.string :started_by, limit: 16, null: false, default: "hand"
      t.integer :attempts, null: false, default: 0
      t.boolean :approved, null: false, default: false
      t.boolean :cancel_requested, null: false, default: false
      t.text :waits_because
      t.datetime :started_at, precision: 6
      # The plan, while the run is under way: so there is one at a time.
      t.bigint :under_way, index: { unique: true }
    end
    execute("UPDATE export_runs r JOIN exports e ON e.id = r.export_id SET r.rules = e.rules")
    execute("UPDATE export_runs SET state = 'failed', error = 'interrupted' WHERE state IN ('queued', 'running')")
    change_column_null :export_runs, :rules, false
    change_column_null :export_runs, :policy, true
    remove_check_constraint :export_runs, name: "run_state"
    add_check_constraint :export_runs, "state IN #{STATES}", name: "run_state"
  end
end
