# frozen_string_literal: true

# Where an audience is filed, and what its writer noted.
class DescribeAudiences < ActiveRecord::Migration[7.2]
  def change
    change_table(:audiences, bulk: true) do |t|
      t.string :folder, limit: 100, null: false, default: ""
      t.string :note, limit: 2000, null: false, default: ""
    end
  end
end
