# frozen_string_literal: true

# Which event types tell of messages, where it is said otherwise than by default.
class TellOfMessages < ActiveRecord::Migration[7.2]
  def change
    add_column :workspaces, :messaging, :json
  end
end
