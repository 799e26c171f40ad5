# frozen_string_literal: true

# Whom a provider has said somebody is, and by what a session was begun.
class SignInByAProvider < ActiveRecord::Migration[7.2]
  def change
    add_column :accounts, :provider_subject, :string, limit: 512
    add_index :accounts, :provider_subject, unique: true
    add_column :account_sessions, :through, :string, limit: 16, null: false, default: "password"
  end
end
