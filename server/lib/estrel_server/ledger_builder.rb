# frozen_string_literal: true

module EstrelServer
  # Copies the store into the ledger: everything at first, afterwards only the events that came since.
  #
  # One builder at a time, by a database lock; readers keep the generation they have until the new one is complete.
  class LedgerBuilder
    LOCK = "ledger_build"

    # @param ledger [Estrel::Ledger]
    # @param settings [Settings]
    # @yieldparam message [String] what is being done, for showing progress
    def initialize(ledger = EstrelServer.ledger, settings = EstrelServer.settings, &on_progress)
      @ledger = ledger
      @settings = settings
      @on_progress = on_progress
    end

    # Brings the ledger up to date with the store.
    #
    # @param rebuild [Boolean] start from nothing
    # @return [Hash] the new generation's facts
    def refresh(rebuild: false)
      with_lock do
        @previous = rebuild ? nil : previous
        @marks = high_water_marks
        @catalogue = catalogue
        write(Estrel::Ledger::Writer.new(@ledger.directory, calendar: calendar, carry_over: @previous))
      end
    end

    private

    def with_lock
      name = Record.connection.quote("#{Record.connection.current_database}_#{LOCK}")
      Record.connection.select_value("SELECT GET_LOCK(#{name}, 3600)")
      yield
    ensure
      Record.connection.execute("DO RELEASE_LOCK(#{name})")
    end

    def calendar = @calendar ||= Workspace.current.calendar

    # The generation to build on. None when the time zone has changed, since days depend on it, or when the ledger's
    # files are damaged or belong to another store.
    def previous
      generation = @ledger.current
      same_store = generation.facts["store"] == Workspace.current.created_at.iso8601(6)
      generation if same_store && generation.calendar.time_zone == calendar.time_zone
    rescue Estrel::Ledger::Missing, SystemCallError, JSON::ParserError, KeyError
      nil
    end

    # Everything up to these row numbers is committed: whoever stores a batch holds the turn.
    def high_water_marks
      Record.transaction do
        Record.connection.execute("SELECT id FROM ingest_turns FOR UPDATE")
        { "events" => Event.maximum(:id) || 0, "attribute_values" => AttributeValue.maximum(:id) || 0 }
      end
    end

    def catalogue
      properties = EventProperty.order(:name).pluck(:event_type_id, :name, :value_type, :mixed).group_by(&:shift)
      types = EventType.order(:name).pluck(:id, :name).map do |id, name|
        fields = (properties[id] || []).map { |row| field(*row) }.to_h { |field| [field.name, field] }
        Estrel::Catalogue::EventType.new(id: id, name: name, properties: fields, count: 0)
      end
      attributes = AttributeDefinition.order(:name).pluck(:name, :value_type, :mixed).map { |row| field(*row) }
      Estrel::Catalogue.new(event_types: types, attributes: attributes)
    end

    def field(name, type, mixed) = Estrel::Catalogue::Field.new(name: name, type: type, mixed: mixed).freeze

    def write(writer)
      dump = LedgerBuilding::Dump.new(@settings.exchange_directory)
      from = @previous ? @previous.facts.fetch("marks").fetch("events") : 0
      events = LedgerBuilding::EventFiles.new(@catalogue, @previous, dump, @on_progress)
                                         .write(writer, from, @marks["events"])
      history = LedgerBuilding::History.new(@catalogue, dump).read(@marks["attribute_values"])
      writer.put_attribute_history(history)
      writer.put_profiles(LedgerBuilding::Profiles.new(@catalogue, dump).build(history, events.map(&:firsts)))
      facts = facts(events, history)
      writer.commit(catalogue: counted(events), facts: facts)
      facts
    end

    def counted(events)
      types = events.map { |summary| summary.type.dup.tap { |type| type.count = summary.count }.freeze }
      Estrel::Catalogue.new(event_types: types, attributes: @catalogue.attributes.values)
    end

    def facts(events, history)
      { "marks" => @marks, "store" => Workspace.current.created_at.iso8601(6), "built_at" => Time.now.utc.iso8601,
        "event_count" => events.sum(&:count), "oldest_occurred_at" => events.filter_map(&:oldest).min,
        "newest_occurred_at" => [*events.map(&:newest), history["occurred_at"].max].compact.max,
        "newest_received_at" => events.filter_map(&:received).max }
    end
  end
end
