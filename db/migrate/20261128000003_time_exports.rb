# frozen_string_literal: true

# The instant at which a run exported: what came of it counts from then on.
class TimeExports < ActiveRecord::Migration[7.2]
  def up
    add_column :export_runs, :exported_at, :datetime, precision: 6
    execute("UPDATE export_runs SET exported_at = COALESCE(started_at, finished_at) WHERE waterfall IS NOT NULL")
  end
end
