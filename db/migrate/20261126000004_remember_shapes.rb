# frozen_string_literal: true

# Which columns an imported file had, so that the next one like it is read in the same way.
class RememberShapes < ActiveRecord::Migration[7.2]
  def change
    add_column :imports, :shape, :string, limit: 40
    add_index :imports, :shape
  end
end
