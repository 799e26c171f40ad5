# frozen_string_literal: true

module EstrelServer
  # The one workspace: its reporting time zone.
  class Workspace < Record
    # The tables that hold people, what is known of them, and what was made of it.
    DATA_TABLES = %w[export_runs exports audience_versions audiences rejects imports events attribute_values
                     identifiers profiles event_properties event_types attribute_definitions sources
                     lifecycle_policies].freeze

    validate :time_zone_exists

    # @return [Workspace]
    def self.current = first || create!

    # Removes every person, event, audience, import and export. Settings stay.
    #
    # @return [void]
    def self.clear
      connection.execute("SET SESSION foreign_key_checks = 0")
      DATA_TABLES.each { |table| connection.execute("TRUNCATE TABLE #{table}") }
      current.update!(created_at: Time.now.utc) # tells a ledger built before that it belongs to another store
    ensure
      connection.execute("SET SESSION foreign_key_checks = 1")
    end

    # @return [Estrel::Calendar]
    def calendar = Estrel::Calendar.new(time_zone)

    private

    def time_zone_exists
      calendar
    rescue Estrel::Calendar::UnknownTimeZone => e
      errors.add(:time_zone, e.message)
    end
  end
end
