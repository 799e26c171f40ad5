# frozen_string_literal: true

# Keys that somebody's devices hold, by which they sign in.
class SignInByPasskeys < ActiveRecord::Migration[7.2]
  def change
    add_column :accounts, :passkey_handle, :string, limit: 100
    create_table :passkeys do |t|
      t.bigint :account_id, null: false
      t.string :external_id, null: false, limit: 700
      t.text :public_key, null: false
      t.bigint :sign_count, null: false, default: 0
      t.string :name, null: false
      t.string :challenge_digest, limit: 64
      t.datetime :created_at, null: false, precision: 6
      t.datetime :used_at, precision: 6
      t.index :external_id, unique: true
      t.index :account_id
      t.foreign_key :accounts, on_delete: :cascade
    end
  end
end
