# frozen_string_literal: true

# For how many months events are kept, the first day of which they are kept now, and that up to which older ones have
# been removed.
class KeepEventsForSomeTime < ActiveRecord::Migration[7.2]
  def change
    change_table(:workspaces, bulk: true) do |t|
      t.integer :kept_months
      t.date :events_from
      t.date :events_removed_before
    end
  end
end
