# frozen_string_literal: true

module EstrelServer
  # What is known of one person as of a date, read from the store.
  class Person
    # @param id [Integer]
    # @param generation [Estrel::Ledger::Generation]
    # @param as_of [Date]
    # @param policy [Estrel::Lifecycle::Policy, nil]
    # @raise [ActiveRecord::RecordNotFound]
    def initialize(id, generation, as_of:, policy:)
      @profile = Profile.find(id)
      @generation = generation
      @as_of = as_of
      @policy = policy
    end

    # @return [Hash] identifiers, state, attributes with when they last changed, and event types with counts
    def to_h
      summary = People.new(@generation, as_of: @as_of, policy: @policy).describe_ids([@profile.id]).first
      { id: @profile.id, known_by_then: !summary.nil?, summary: summary, attributes: attributes,
        event_types: event_types, received_at: @profile.created_at.iso8601(6) }
    end

    # One page of the timeline, newest first.
    #
    # @param type [String, nil] an event type
    # @param page [Integer] from 1
    # @param per_page [Integer]
    # @return [Hash] total and rows
    def events(type: nil, page: 1, per_page: 50)
      scope = seen
      scope = scope.where(event_types: { name: type }) if type
      rows = scope.order(occurred_at: :desc, id: :desc).offset((page - 1) * per_page).limit(per_page)
                  .includes(:event_type, :source)
      { total: scope.count, rows: rows.map { |event| describe(event) } }
    end

    private

    def end_of_date = Time.at(0, @generation.calendar.end_of(@as_of), :usec).utc

    def seen = @profile.events.joins(:event_type).where("occurred_at < ?", end_of_date)

    # The newest value of every attribute, and when it took on that value.
    def attributes
      rows = @profile.attribute_values.joins(:attribute_definition).where("occurred_at < ?", end_of_date)
                     .order(:occurred_at).pluck("attribute_definitions.name", "attribute_values.value", :occurred_at)
      rows.group_by(&:first).sort.map do |name, history|
        value = history.last[1]
        since = history.reverse.take_while { |_, earlier, _| earlier == value }.last[2]
        changes = history.map { |row| row[1] }.chunk_while { |before, after| before == after }.count
        { name: name, value: value, since: since.iso8601(6), changes: changes }
      end
    end

    def event_types
      seen.group("event_types.name").order(Arel.sql("COUNT(*) DESC, event_types.name"))
          .pluck("event_types.name", Arel.sql("COUNT(*)")).map { |name, count| { name: name, count: count } }
    end

    def describe(event)
      micros = (event.occurred_at.to_r * 1_000_000).to_i
      { id: event.id, type: event.event_type.name, source: event.source.name,
        occurred_at: event.occurred_at.iso8601(6), received_at: event.received_at.iso8601(6),
        day: @generation.calendar.day_of(micros), properties: event.properties }
    end
  end
end
