# frozen_string_literal: true

# An event keeps which device it came from: a number made of the visitor identifier, see EstrelServer::Device. Of events
# stored earlier it is not known.
class TellDevicesApart < ActiveRecord::Migration[7.2]
  def change
    add_column :events, :device, :bigint
  end
end
