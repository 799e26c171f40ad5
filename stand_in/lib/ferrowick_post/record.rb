# frozen_string_literal: true

module FerrowickPost
  # The service's own database.
  class Record < ActiveRecord::Base
    self.abstract_class = true

    # @return [String]
    def self.compute_table_name = name.demodulize.tableize

    # Makes the tables where there are none; one column had another name once.
    #
    # @return [void]
    def self.prepare
      TABLES.each { |name, build| connection.create_table(name, if_not_exists: true, &build) }
      return unless connection.column_exists?("service_settings", "write_key")

      connection.rename_column("service_settings", "write_key", "sending_key")
    end

    # Adds rows that are not there yet, by whatever is unique; many times faster than one by one or through models.
    #
    # @param columns [Array<Symbol>]
    # @param rows [Array<Array>] values in their order
    # @return [Integer] how many were not there
    def self.add(columns, rows)
      return 0 if rows.empty?

      quoted = Hash.new { |known, value| known[value] = connection.quote(value) }.compare_by_identity
      values = rows.map { |row| "(#{row.map { |value| quoted[value] }.join(",")})" }
      connection.update("INSERT IGNORE INTO #{table_name} (#{columns.join(",")}) VALUES #{values.join(",")}")
    end

    INSTANT = { precision: 6 }.freeze
    TABLES = {
      "service_settings" => lambda { |t|
        t.integer :seed, null: false
        t.string :secret, null: false
        t.string :collector, :sending_key, null: false, default: ""
        t.float :day_seconds, null: false
        t.string :trouble, null: false, default: "none"
        t.integer :trouble_left, null: false, default: 0
        t.boolean :twice, :shuffled, null: false, default: false
        t.string :complaint, limit: 500
      },
      "requests" => lambda { |t|
        t.string :webhook_id, null: false
        t.integer :status, :people, :fresh, null: false
        t.datetime :came_at, **INSTANT, null: false
      },
      "messages" => lambda { |t|
        t.string :message_key, limit: 64, null: false, index: { unique: true }
        t.string :run, limit: 64, null: false, index: true
        t.string :campaign, null: false
        t.string :channel, limit: 16, null: false
        t.string :subject, :person_state
        t.datetime :sent_at, **INSTANT, null: false
        t.datetime :taken_at, **INSTANT, null: false
        t.boolean :fated, null: false, default: false, index: true
      },
      "happenings" => lambda { |t|
        t.references :message, null: false, index: false
        t.string :kind, limit: 32, null: false
        t.datetime :occurs_at, :due_at, **INSTANT, null: false
        t.boolean :told, null: false, default: false
        t.index %i[message_id kind], unique: true
        t.index %i[told due_at]
      }
    }.freeze
    private_constant :INSTANT, :TABLES
  end
end
