# frozen_string_literal: true

# The system of record: who is known, what they did, what is known about them, and where it came from.
class CreateStore < ActiveRecord::Migration[7.2]
  NAME = { limit: 255, null: false }.freeze
  INSTANT = { precision: 6, null: false }.freeze
  TYPES = "('text', 'number', 'boolean', 'time')"

  def change
    create_table(:workspaces) do |t|
      t.integer :slot, null: false, default: 1, index: { unique: true }
      t.string :time_zone, limit: 64, null: false, default: "UTC"
      t.datetime :created_at, **INSTANT
      t.check_constraint "slot = 1", name: "only_one_workspace"
    end

    create_table(:sources) { |t| t.string :name, **NAME, index: { unique: true } }

    create_table(:profiles) { |t| t.datetime :created_at, **INSTANT }

    create_table(:identifier_kinds) do |t|
      t.string :name, limit: 64, null: false, index: { unique: true }
      t.check_constraint "name REGEXP '^[a-z][a-z0-9_]*$'", name: "identifier_kind_name"
    end

    create_table(:identifiers) do |t|
      t.references :profile, null: false, foreign_key: true
      t.references :identifier_kind, null: false, foreign_key: true, index: false
      t.string :value, **NAME
      t.datetime :created_at, **INSTANT
      t.index %i[identifier_kind_id value], unique: true
      t.check_constraint "value <> ''", name: "identifier_not_empty"
    end

    create_fields
    create_events
  end

  private

  def create_fields
    create_table(:attribute_definitions) do |t|
      t.string :name, **NAME, index: { unique: true }
      t.string :value_type, limit: 16, null: false
      t.boolean :mixed, null: false, default: false
      t.check_constraint "value_type IN #{TYPES}", name: "attribute_type"
    end

    create_table(:attribute_values) do |t|
      t.references :profile, null: false, foreign_key: true, index: false
      t.references :attribute_definition, null: false, foreign_key: true
      t.datetime :occurred_at, **INSTANT
      t.datetime :received_at, **INSTANT
      t.json :value
      t.index %i[profile_id attribute_definition_id occurred_at], unique: true, name: "attribute_value_once"
    end

    create_table(:event_types) { |t| t.string :name, **NAME, index: { unique: true } }

    create_table(:event_properties) do |t|
      t.references :event_type, null: false, foreign_key: true, index: false
      t.string :name, **NAME
      t.string :value_type, limit: 16, null: false
      t.boolean :mixed, null: false, default: false
      t.index %i[event_type_id name], unique: true
      t.check_constraint "value_type IN #{TYPES}", name: "property_type"
    end
  end

  def create_events
    create_table(:events) do |t|
      t.references :event_type, null: false, foreign_key: true, index: false
      t.references :profile, null: false, foreign_key: true, index: false
      t.references :source, null: false, foreign_key: true, index: false
      t.string :event_key, **NAME
      t.datetime :occurred_at, **INSTANT
      t.datetime :received_at, **INSTANT
      t.json :properties, null: false
      t.index %i[source_id event_key], unique: true
      t.index %i[profile_id occurred_at]
      t.index :event_type_id
    end

    # One row; whoever stores a batch holds its lock, so that row numbers are given out in the order of commits and a
    # ledger refresh can read "everything after number n" without missing a batch that is still on its way.
    create_table(:ingest_turns) do |t|
      t.integer :slot, null: false, default: 1, index: { unique: true }
      t.check_constraint "slot = 1", name: "only_one_turn"
    end
    reversible { |direction| direction.up { execute("INSERT INTO ingest_turns (slot) VALUES (1)") } }
  end
end
