# frozen_string_literal: true

# Plans are carried out by themselves at times of their own; a run says so where others before it were missed.
class ScheduleExports < ActiveRecord::Migration[7.2]
  def change
    add_column :exports, :next_run_at, :datetime, precision: 6
    add_column :export_runs, :note, :string, limit: 1000, null: false, default: ""
  end
end
