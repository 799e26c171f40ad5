# frozen_string_literal: true

# Data that arrives live: sources with write keys, links and merges of profiles, consent, refusals, erasures, and what
# an analyst says about event types and attributes.
class CreateCollecting < ActiveRecord::Migration[7.2]
  NAME = { limit: 255, null: false }.freeze
  INSTANT = { precision: 6, null: false }.freeze
  MAYBE_INSTANT = { precision: 6, null: true }.freeze
  NOW = { default: -> { "CURRENT_TIMESTAMP(6)" } }.freeze

  def change
    settings
    sources
    catalogue
    identity
    facts
    refusals_and_erasures
  end

  private

  def settings
    # Counts whatever makes a remembered owner of an identifier wrong: merges, moves, erasures.
    add_column :ingest_turns, :identity_version, :bigint, null: false, default: 0
    change_table(:workspaces) do |t|
      t.integer :visit_gap_minutes, null: false, default: 30
      t.integer :future_tolerance_minutes, null: false, default: 10
      t.bigint :catalogue_version, null: false, default: 0
      t.check_constraint "visit_gap_minutes BETWEEN 1 AND 1440", name: "visit_gap_range"
      t.check_constraint "future_tolerance_minutes BETWEEN 0 AND 525600", name: "tolerance_range"
    end
  end

  def sources
    change_table(:sources) do |t|
      t.string :description, limit: 1000, null: false, default: ""
      t.json :allowed_types
      t.integer :events_per_minute
      t.datetime :created_at, **INSTANT, **NOW
      t.check_constraint "events_per_minute IS NULL OR events_per_minute >= 1", name: "source_rate"
    end

    create_table(:write_keys) do |t|
      t.references :source, null: false, foreign_key: true
      t.string :digest, limit: 64, null: false, index: { unique: true }
      t.string :hint, limit: 16, null: false
      t.datetime :created_at, **INSTANT
      t.datetime :expires_at, **MAYBE_INSTANT
      t.datetime :revoked_at, **MAYBE_INSTANT
      t.datetime :last_used_at, **MAYBE_INSTANT
    end
  end

  def catalogue
    change_table(:event_types) do |t|
      t.string :description, limit: 1000, null: false, default: ""
      t.string :folder, limit: 255, null: false, default: ""
      t.boolean :not_activity, null: false, default: false
      t.boolean :hidden, null: false, default: false
      t.references :merged_into, foreign_key: { to_table: :event_types }, index: true
      t.datetime :created_at, **INSTANT, **NOW
    end
    %i[event_properties attribute_definitions].each do |table|
      change_table(table) do |t|
        t.string :description, limit: 1000, null: false, default: ""
        t.datetime :created_at, **INSTANT, **NOW
      end
    end
    reversible do |direction|
      direction.up { attribute_types("('text', 'number', 'boolean', 'date', 'time', 'list')") }
      direction.down { attribute_types("('text', 'number', 'boolean', 'time')") }
    end
  end

  def attribute_types(types)
    remove_check_constraint :attribute_definitions, name: "attribute_type"
    add_check_constraint :attribute_definitions, "value_type IN #{types}", name: "attribute_type"
  end

  def identity
    change_table(:profiles) do |t|
      t.references :merged_into, foreign_key: { to_table: :profiles }, index: true
    end
    change_table(:identifiers) do |t|
      t.references :source, foreign_key: true, index: false
      t.datetime :since, **INSTANT, **NOW
    end

    create_table(:links) do |t|
      t.references :receipt, null: false, index: { unique: true }
      t.string :one, limit: 320, null: false
      t.string :other, limit: 320, null: false
      t.string :outcome, limit: 24, null: false
      t.references :profile, foreign_key: true
      t.datetime :occurred_at, **INSTANT
      t.datetime :received_at, **INSTANT
      t.check_constraint "outcome IN ('made', 'attached', 'merged', 'moved', 'same', 'refused')", name: "link_outcome"
    end

    create_table(:merges) do |t|
      t.references :link, null: false, foreign_key: true, index: { unique: true }
      t.references :from_profile, null: false, foreign_key: { to_table: :profiles }
      t.references :into_profile, null: false, foreign_key: { to_table: :profiles }
      t.json :before, null: false
      t.datetime :merged_at, **INSTANT
      t.check_constraint "from_profile_id <> into_profile_id", name: "merge_of_two"
    end

    # A visitor identifier that went from one customer to another: a shared device.
    create_table(:identifier_moves) do |t|
      t.references :identifier, null: false, foreign_key: { on_delete: :cascade }
      t.references :link, null: false, foreign_key: true
      t.references :from_profile, null: false, foreign_key: { to_table: :profiles }
      t.references :to_profile, null: false, foreign_key: { to_table: :profiles }
      t.datetime :moved_at, **INSTANT
    end
  end

  def facts
    # One row per collected link, attribute change or consent change: what makes each count once.
    create_table(:receipts) do |t|
      t.references :source, null: false, foreign_key: true, index: false
      t.string :event_key, **NAME
      t.string :kind, limit: 16, null: false
      t.string :content_digest, limit: 64, null: false
      t.string :subject, limit: 320, null: false
      t.datetime :occurred_at, **INSTANT
      t.datetime :received_at, **INSTANT
      t.index %i[source_id event_key], unique: true
      t.check_constraint "kind IN ('attributes', 'link', 'consent')", name: "receipt_kind"
    end
    add_foreign_key :links, :receipts

    create_table(:consents) do |t|
      t.references :receipt, null: false, foreign_key: true, index: { unique: true }
      t.references :profile, null: false, foreign_key: true, index: false
      t.string :channel, limit: 16, null: false
      t.boolean :given, null: false
      t.string :evidence, limit: 1000, null: false, default: ""
      t.datetime :occurred_at, **INSTANT
      t.datetime :received_at, **INSTANT
      t.index %i[profile_id channel occurred_at]
      t.check_constraint "channel IN ('email', 'push', 'sms')", name: "consent_channel"
    end
  end

  def refusals_and_erasures
    create_table(:refusals) do |t|
      t.references :source, foreign_key: true
      t.string :reason, limit: 1000, null: false
      t.string :event_type, limit: 255, null: false, default: ""
      t.string :subject, limit: 320, null: false, default: ""
      t.text :payload, size: :medium, null: false
      t.datetime :received_at, **INSTANT
      t.index :received_at
    end

    create_table(:erasures) do |t|
      t.bigint :profile_id, null: false, index: { unique: true }
      t.string :reason, limit: 1000, null: false
      t.json :removed, null: false
      t.datetime :erased_at, **INSTANT
    end

    # What must not come back: a keyed digest of every identifier an erased person held.
    create_table(:erased_identifiers) do |t|
      t.string :digest, limit: 64, null: false, index: { unique: true }
      t.datetime :erased_at, **INSTANT
    end
  end
end
