# frozen_string_literal: true

# Lifecycle policies get names and versions; what an event belonged to before a merge, and how event types were read
# before a change, is kept from now on; and conditions to watch, with the notices they gave rise to.
class VersionPolicies < ActiveRecord::Migration[7.2]
  INSTANT = { precision: 6, null: false }.freeze

  def up
    create_table(:lifecycle_policy_versions) do |t|
      t.references :lifecycle_policy, null: false, foreign_key: true, index: false
      t.integer :number, null: false
      t.json :rules, null: false
      t.string :author, limit: 100, null: false, default: ""
      t.datetime :created_at, **INSTANT
      t.index %i[lifecycle_policy_id number], unique: true, name: "policy_version_once"
      t.check_constraint "number >= 1", name: "policy_version_number"
    end
    carry_over
    change_table(:lifecycle_policies) do |t|
      t.boolean :in_force, null: false, default: false
      t.datetime :deleted_at, precision: 6
    end
    execute("UPDATE lifecycle_policies SET in_force = TRUE")
    remove_check_constraint :lifecycle_policies, name: "policy_thresholds"
    remove_columns :lifecycle_policies, :activity, :new_for, :active_within, :churned_after
    remove_index :lifecycle_policies, :name

    origins
    watches
  end

  private

  def carry_over
    execute(<<~SQL)
      INSERT INTO lifecycle_policy_versions (lifecycle_policy_id, number, rules, created_at)
      SELECT id, 1, JSON_OBJECT('activity', JSON_EXTRACT(activity, '$'), 'new_for', new_for, 'active_within',
             active_within, 'churned_after', churned_after), updated_at FROM lifecycle_policies
    SQL
  end

  def origins
    add_column :events, :origin_profile_id, :bigint
    create_table(:catalogue_changes) do |t|
      t.references :event_type, null: false, foreign_key: true
      t.boolean :was_not_activity, null: false
      t.bigint :was_merged_into_id
      t.datetime :changed_at, **INSTANT
    end
  end

  def watches
    create_table(:watches) do |t|
      t.string :kind, limit: 32, null: false
      t.references :lifecycle_policy, foreign_key: true
      t.json :settings, null: false
      t.datetime :created_at, **INSTANT
    end
    create_table(:notices) do |t|
      t.references :watch, null: false, foreign_key: { on_delete: :cascade }, index: false
      t.date :about, null: false
      t.string :text, limit: 1000, null: false
      t.datetime :created_at, **INSTANT
      t.datetime :read_at, precision: 6
      t.index %i[watch_id about], unique: true
    end
  end
end
