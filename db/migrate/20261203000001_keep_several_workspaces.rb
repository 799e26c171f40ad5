# frozen_string_literal: true

# Workspaces beside the first one, and what accounts may do in each. All of it stands in the first one's schema only;
# the same tables in the others are empty.
class KeepSeveralWorkspaces < ActiveRecord::Migration[7.2]
  ROLES = "'viewer', 'analyst', 'administrator'"

  def up
    create_table(:installed_workspaces) do |t|
      t.string :name, limit: 30, null: false, index: { unique: true }
      t.string :title, limit: 100, null: false
      t.string :state, limit: 16, null: false
      t.string :problem, limit: 500
      t.string :made_by, limit: 255, null: false
      t.datetime :created_at, precision: 6, null: false
      t.check_constraint "state IN ('being made', 'open', 'archived', 'being removed')", name: "workspace_state"
    end
    create_memberships
    add_column :api_tokens, :workspace, :string, limit: 30, null: false, default: "main"
    remove_check_constraint :accounts, name: "account_role"
    add_check_constraint :accounts, "role IN ('none', #{ROLES})", name: "account_role"
  end

  private

  def create_memberships
    create_table(:memberships) do |t|
      t.references :account, null: false, foreign_key: { on_delete: :cascade }
      t.references :installed_workspace, null: false, foreign_key: { on_delete: :cascade }
      t.string :role, limit: 16, null: false
      t.index %i[account_id installed_workspace_id], unique: true
      t.check_constraint "role IN (#{ROLES})", name: "membership_role"
    end
  end
end
