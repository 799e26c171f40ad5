# frozen_string_literal: true

module EstrelServer
  class People
    # What one person did, newest first, grouped into visits. System messages belong to none.
    class Timeline
      # @param profile [Profile]
      # @param calendar [Estrel::Calendar]
      # @param as_of [Date]
      # @param catalogue [Estrel::Catalogue] of what whoever asks may see
      def initialize(profile, calendar, as_of, catalogue)
        @catalogue = catalogue
        @profile = profile
        @calendar = calendar
        @as_of = as_of
      end

      # @param type [String, nil] an event type
      # @param until_day [Date, nil] only what was done by the end of this day
      # @param page [Integer] from 1
      # @param per_page [Integer]
      # @return [Hash] total, rows, and the visits they belong to
      def page(type: nil, until_day: nil, page: 1, per_page: 50)
        scope = seen([until_day, @as_of].compact.min)
        scope = scope.where(event_type_id: EventType.where(name: type).ids) if type
        rows = scope.order(occurred_at: :desc, id: :desc).offset((page - 1) * per_page).limit(per_page)
                    .includes(:event_type, :source).to_a
        numbers = rows.to_h { |event| [event.id, visit_number(event)] }
        { total: scope.count, rows: rows.map { |event| describe(event, numbers[event.id]) },
          visits: numbers.values.compact.uniq.map { |number| describe_visit(number) } }
      end

      private

      def seen(day)
        after = Time.at(0, @calendar.end_of(day), :usec).utc
        @profile.events.where("occurred_at < ?", after)
      end

      def micros(time) = (time.to_r * 1_000_000).to_i

      # Over everything done by the as-of date, whatever is shown of it.
      def visits
        @visits ||= begin
          instants = seen(@as_of).where.not(event_type_id: system_types).order(:occurred_at).pluck(:occurred_at)
          Estrel::Visits.of(instants.map { |time| micros(time) }, Workspace.current.visit_gap)
        end
      end

      def system_types
        @system_types ||= EventType.pluck(:id, :name).select { |_, name| @catalogue.event_type(name)&.not_activity }
                                   .map(&:first)
      end

      def visit_number(event)
        return if system_types.include?(event.event_type_id)

        at = micros(event.occurred_at)
        visits.bsearch_index { |visit| visit.last >= at }
      end

      def describe(event, visit)
        { id: event.id, type: event.event_type.name, source: event.source.name,
          occurred_at: event.occurred_at.iso8601(6), received_at: event.received_at.iso8601(6),
          day: @calendar.day_of(micros(event.occurred_at)), properties: shown(event), visit: visit && (visit + 1) }
      end

      def shown(event) = Access::Disclosure.properties(@catalogue, event.event_type.name, event.properties)

      def describe_visit(number)
        visit = visits[number]
        { number: number + 1, first: Time.at(0, visit.first, :usec).utc.iso8601(6), count: visit.count,
          seconds: visit.duration / 1_000_000 }
      end
    end
  end
end
