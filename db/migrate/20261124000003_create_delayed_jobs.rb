# frozen_string_literal: true

# The queue of the background workers, in the shape its library asks for.
class CreateDelayedJobs < ActiveRecord::Migration[7.2]
  def change
    create_table(:delayed_jobs) do |t|
      t.integer :priority, default: 0, null: false
      t.integer :attempts, default: 0, null: false
      t.text :handler, size: :medium, null: false
      t.text :last_error, size: :medium
      t.datetime :run_at
      t.datetime :locked_at
      t.datetime :failed_at
      t.string :locked_by
      t.string :queue
      t.timestamps null: true
      t.index %i[priority run_at]
    end
  end
end
