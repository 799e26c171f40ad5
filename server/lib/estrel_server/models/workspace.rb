# frozen_string_literal: true

module EstrelServer
  # The one workspace and its settings: the reporting time zone, the visit gap and the tolerance for future times.
  class Workspace < Record
    # The tables that hold people, what is known of them, and what was made of it.
    DATA_TABLES = %w[page_comments page_runs pages saved_analysis_versions saved_analyses annotations groupings
                     chance_models alerts alert_rules catalogue_changes push_refusals push_batches export_runs
                     exports destinations contact_list_entries contact_lists holdouts standing_holdouts
                     audience_versions audiences rejects imports consents identifier_moves merges links receipts
                     refusals events property_blocks attribute_values identifiers profiles event_properties event_types
                     attribute_definitions rule_set_versions rule_sets].freeze

    attribute :messaging, :json

    validate :time_zone_exists
    validates :visit_gap_minutes, numericality: { only_integer: true, in: 1..1440 }
    validates :future_tolerance_minutes, numericality: { only_integer: true, in: 0..525_600 }
    validates :kept_months, numericality: { only_integer: true, in: 1..1200 }, allow_nil: true

    # @return [Workspace]
    def self.current = first || create!

    # Removes every person, event, audience, import and export. Settings, sources that have keys, and the tombstones of
    # erased people stay.
    #
    # @return [void]
    def self.clear
      connection.execute("SET SESSION foreign_key_checks = 0")
      holding_rows.each { |table| connection.execute("TRUNCATE TABLE #{table}") }
      connection.execute("DELETE FROM sources WHERE id NOT IN (SELECT source_id FROM sending_keys)")
      IngestTurn.owners_changed
      # The time tells a ledger built before that it belongs to another store.
      current.update!(created_at: Time.now.utc, demo: false)
    ensure
      connection.execute("SET SESSION foreign_key_checks = 1")
    end

    # @return [Array<String>] of the tables of data, those that are not empty: emptying one takes as long either way
    def self.holding_rows
      held = DATA_TABLES.map { |table| "(SELECT '#{table}' FROM #{table} LIMIT 1)" }
      connection.select_values(held.join(" UNION ALL "))
    end
    private_class_method :holding_rows

    # Tells whoever refreshes the ledger that event types or sources are to be read differently.
    #
    # @return [void]
    def self.catalogue_changed = connection.execute("UPDATE workspaces SET catalogue_version = catalogue_version + 1")

    # Somebody's own data has come: from now on this is no demo, and nobody signs in without a password.
    #
    # @return [void]
    def self.end_demo = where(demo: true).update_all(demo: false)

    # @return [Estrel::Campaigns::Messaging]
    def messages = Estrel::Campaigns::Messaging.new(messaging)

    # @return [String] tells this store from another one, from itself before everything was removed, and before it kept
    #   other events
    def store_id = [created_at.iso8601(6), events_from&.iso8601].compact.join(" ")

    # @return [Date] in the reporting time zone
    def today = calendar.day_of(Process.clock_gettime(Process::CLOCK_REALTIME, :microsecond))

    # Sets from when on events are kept: from the first of a month, so that it changes once a month.
    #
    # @param day [Date] today
    # @return [void]
    def keep_by(day)
      last = kept_months && (day << kept_months)
      self.events_from = last && Date.new(last.year, last.month, 1)
    end

    # @return [Time, nil] the instant from which on events are kept; nil where all are
    def kept_from = events_from && Time.at(0, calendar.start_of(events_from), :usec).utc

    # @return [Integer] the longest gap inside a visit, microseconds
    def visit_gap = visit_gap_minutes * 60 * 1_000_000

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
