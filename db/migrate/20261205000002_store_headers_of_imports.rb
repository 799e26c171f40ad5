# frozen_string_literal: true

# The header line of imported CSV files, by which rejected rows are read again when a person is erased.
class StoreHeadersOfImports < ActiveRecord::Migration[7.2]
  def change
    add_column :imports, :header, :text, size: :medium
  end
end
