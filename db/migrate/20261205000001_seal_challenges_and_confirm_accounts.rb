# frozen_string_literal: true

# Challenges of passkeys that were answered, so that no answer counts twice; and whether the installation vouches for
# an account, see EstrelServer::Account.
class SealChallengesAndConfirmAccounts < ActiveRecord::Migration[7.2]
  def up
    create_table(:used_challenges) do |t|
      t.string :digest, limit: 64, null: false, index: { unique: true }
      t.datetime :expires_at, precision: 6, null: false, index: true
    end
    remove_column :passkeys, :challenge_digest
    add_column :accounts, :confirmed, :boolean, null: false, default: true
    execute("UPDATE accounts SET confirmed = FALSE WHERE role = 'none' AND provider_subject IS NULL")
    add_column :memberships, :created_at, :datetime, precision: 6, null: false, default: -> { "CURRENT_TIMESTAMP(6)" }
    add_column :one_time_links, :workspace, :string, limit: 30
  end

  def down
    remove_column :one_time_links, :workspace
    remove_column :memberships, :created_at
    remove_column :accounts, :confirmed
    add_column :passkeys, :challenge_digest, :string, limit: 64
    drop_table :used_challenges
  end
end
