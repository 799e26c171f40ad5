# frozen_string_literal: true

# Codes from an application as a second factor, and where sessions are.
class AskForASecondFactor < ActiveRecord::Migration[7.2]
  def change
    change_table :accounts, bulk: true do |t|
      t.string :totp_secret, limit: 510
      t.datetime :second_factor_at, precision: 6
      t.bigint :totp_used_at
      t.json :recovery_digests
    end
    change_table :account_sessions, bulk: true do |t|
      t.string :from_address, limit: 64
      t.string :agent, limit: 255
    end
  end
end
