# frozen_string_literal: true

# What one process at a time may do, as rows that outlive the connection and the database server that wrote them; a
# number that every transaction which takes the ingest turn changes, so that of two on different servers one fails; and
# a digest of the keys, which have to be the same on all machines.
class LeaseInsteadOfLocking < ActiveRecord::Migration[7.2]
  def change
    create_table(:leases, id: false) do |t|
      t.string :name, null: false, limit: 191, primary_key: true
      t.string :holder, null: false, limit: 191
      t.datetime :held_until, null: false, precision: 6
    end
    add_column :ingest_turns, :number, :bigint, null: false, default: 0
    add_column :workspaces, :keys_digest, :string, limit: 64
  end
end
