# frozen_string_literal: true

# Who uses Estrel, what they may do, what is theirs, and a log of what was done that nobody can change.
class SignIn < ActiveRecord::Migration[7.2]
  INSTANT = { precision: 6, null: false }.freeze
  OWNED = %i[audiences lifecycle_policies exports].freeze

  def up
    create_accounts
    create_keys
    create_log
    OWNED.each do |table|
      add_reference table, :owner, foreign_key: { to_table: :accounts, on_delete: :nullify }
      add_column table, :private, :boolean, null: false, default: false
    end
  end

  private

  def create_accounts
    create_table(:accounts) do |t|
      t.string :email, limit: 255, null: false, index: { unique: true }
      t.string :role, limit: 16, null: false
      t.string :password_digest, limit: 100
      t.datetime :created_at, **INSTANT
      t.datetime :disabled_at, precision: 6
      t.check_constraint "role IN ('viewer', 'analyst', 'administrator')", name: "account_role"
    end
    create_table(:account_sessions) do |t|
      t.references :account, null: false, foreign_key: { on_delete: :cascade }
      t.string :digest, limit: 64, null: false, index: { unique: true }
      t.datetime :created_at, **INSTANT
      t.datetime :used_at, **INSTANT
    end
  end

  def create_keys
    create_table(:one_time_links) do |t|
      t.references :account, foreign_key: { on_delete: :cascade }
      t.string :digest, limit: 64, null: false, index: { unique: true }
      t.datetime :created_at, **INSTANT
      t.datetime :expires_at, **INSTANT
    end
    create_table(:api_tokens) do |t|
      t.references :account, null: false, foreign_key: { on_delete: :cascade }
      t.string :name, limit: 255, null: false
      t.string :digest, limit: 64, null: false, index: { unique: true }
      t.string :hint, limit: 16, null: false
      t.json :scopes, null: false
      t.datetime :created_at, **INSTANT
      t.datetime :used_at, precision: 6
      t.datetime :revoked_at, precision: 6
    end
  end

  def create_log
    create_table(:audit_entries) do |t|
      t.datetime :at, **INSTANT
      t.string :who, limit: 255, null: false
      t.string :action, limit: 64, null: false
      t.string :about, limit: 1000, null: false, default: ""
      t.string :from_address, limit: 64, null: false, default: ""
    end
    %w[UPDATE DELETE].each do |change|
      execute(<<~SQL)
        CREATE TRIGGER audit_entries_stay_#{change.downcase} BEFORE #{change} ON audit_entries FOR EACH ROW
          SIGNAL SQLSTATE '45000' SET MESSAGE_TEXT = 'the log is only added to'
      SQL
    end
  end
end
