# frozen_string_literal: true

# What event types, properties and attributes are called on screen, and what their numbers are of.
class NameTheCatalogue < ActiveRecord::Migration[7.2]
  QUANTITIES = "('number','money','duration','distance','share')"

  def change
    change_table(:event_types) do |t|
      t.string :noun, limit: 120
      t.string :phrase, limit: 160
    end
    %i[event_properties attribute_definitions].each do |table|
      change_table(table) do |t|
        t.string :display, limit: 120
        t.string :quantity, limit: 16
        t.string :unit, limit: 24
        t.json :value_names
      end
      add_check_constraint table, "quantity IS NULL OR quantity IN #{QUANTITIES}", name: "#{table}_quantity"
    end
  end
end
