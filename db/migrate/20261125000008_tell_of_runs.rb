# frozen_string_literal: true

# Runs that failed or wait for a person's word give rise to notices too.
class TellOfRuns < ActiveRecord::Migration[7.2]
  def change
    change_column_null :notices, :watch_id, true
    add_reference :notices, :export_run, foreign_key: { on_delete: :cascade }
  end
end
