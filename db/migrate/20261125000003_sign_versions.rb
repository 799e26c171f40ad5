# frozen_string_literal: true

# Who made a version, as that person says.
class SignVersions < ActiveRecord::Migration[7.2]
  def change
    add_column(:audience_versions, :author, :string, limit: 100, null: false, default: "")
  end
end
