# frozen_string_literal: true

module Estrel
  module Audience
    # Which events a condition is about: those of one type, of several, or of any, all of whose conditions hold on the
    # same event. Frozen.
    class Selection
      COLUMNS = %w[profile_id occurred_at day].freeze
      # What is wanted of each event besides, see {#rows}.
      Wanted = Struct.new(:property, :keyed, :beside, :split)
      private_constant :Wanted

      # Reads a selection that stands alone, checked as one in a definition is.
      #
      # @param json [Hash] `event`, `events` or `any_event`, and `where`
      # @param catalogue [Catalogue]
      # @return [Selection]
      # @raise [Invalid]
      def self.parse(json, catalogue)
        Definition.parse({ "did" => { **json, "count" => { "at_least" => 1 }, "window" => { "ever" => true } } },
                         catalogue: catalogue).root.selection
      end

      # @return [Array<String>, nil] names of event types; nil for any
      attr_reader :events
      # @return [FilterGroup]
      attr_reader :where

      # @param events [Array<String>, nil]
      # @param where [FilterGroup]
      def initialize(events, where)
        @events = events&.uniq&.sort&.freeze
        @where = where
        freeze
      end

      # The events selected inside a window.
      #
      # @param evaluator [Evaluator]
      # @param window [Window]
      # @param property [String, nil] whose value is wanted as well, as the column `value`
      # @param keyed [Boolean] whether the {Ledger::Timeline}'s number of each is wanted, as the column `key`
      # @param beside [Array<String>] what is wanted of the spine, see {Ledger::Readable#beside}
      # @param split [EventSplit, nil] whose text is wanted as well, as the column `told`
      # @return [Polars::DataFrame] `profile_id`, `occurred_at`, `day` (and `value`, `key`, what stands beside, `told`),
      #   sorted by profile and time
      def rows(evaluator, window, property: nil, keyed: false, beside: [], split: nil)
        keyed &&= evaluator.timeline.fits?
        return all_rows(evaluator, window, keyed, beside) if anything? && property.nil? && split.nil? &&
                                                             (beside - %w[visit_start]).empty?

        wanted = Wanted.new(property, keyed, beside, split)
        frames = types(evaluator.catalogue).filter_map { |type| matching(type, evaluator, window, wanted) }
        return none(wanted) if frames.empty?
        return frames.first if frames.one?

        Polars.concat(frames).sort(keyed ? "key" : %w[profile_id occurred_at])
      end

      # The events selected inside a window, each with its type; for a few people.
      #
      # @param evaluator [Evaluator]
      # @param window [Window]
      # @param property [String, nil] as in {#rows}
      # @return [Array<Hash{Symbol => Object}>] `type`, `at` (instant), `day` (number) and `value`, in order
      def events_of(evaluator, window, property: nil)
        found = types(evaluator.catalogue).flat_map do |type|
          rows = matching(type, evaluator, window, Wanted.new(property, false, [], nil))
          rows ? rows.rows(named: true).map { |row| fact(type, row) } : []
        end
        found.sort_by { |fact| [fact[:at], fact[:type]] }
      end

      # @param catalogue [Catalogue]
      # @return [Array<Catalogue::EventType>]
      def types(catalogue)
        events ? events.map { |name| catalogue.event_types.fetch(name) } : catalogue.event_types.values
      end

      # @return [Hash] plain JSON
      def to_h
        what = if events.nil? then { "any_event" => true }
               else
                 events.one? ? { "event" => events.first } : { "events" => events }
               end
        { **what, "where" => where.kind == "all" ? where.filters.map(&:to_h) : [where.to_h] }
      end

      private

      def anything? = events.nil? && where.empty?

      # The spine holds the events of all types in order already.
      def all_rows(evaluator, window, keyed, beside)
        columns = COLUMNS.map { |name| Polars.col(name).cast(Ledger::Layout::EVENT_COLUMNS.fetch(name)) }
        rows = evaluator.ledger.spine.lazy.select([*columns, *beside.map { |name| Polars.col(name) }])
        rows = rows.join(evaluator.first_seen.lazy, on: "profile_id", how: "inner") if window.relative?
        rows = rows.filter(window.expression(evaluator.as_of, evaluator.calendar)).select([*COLUMNS, *beside]).collect
        keyed ? evaluator.timeline.numbered(rows) : rows
      end

      def matching(type, evaluator, window, wanted)
        property = wanted.property
        return if property && !type.properties.key?(property)

        lazy = source(type, evaluator, window, wanted).lazy
        lazy = lazy.join(evaluator.first_seen.lazy, on: "profile_id", how: "inner") if window.relative?
        lazy = lazy.filter(condition(type, evaluator, window)) unless all?(type, evaluator, window)
        columns = COLUMNS.map { |name| Polars.col(name) }
        columns << Polars.col(Ledger::Layout.property(property)).alias("value") if property
        columns += [*("key" if wanted.keyed), *wanted.beside].map { |name| Polars.col(name) }
        columns << wanted.split.of(type, evaluator.calendar).alias("told") if wanted.split
        lazy.select(columns).collect
      end

      def source(type, evaluator, window, wanted)
        first = window.first_day(evaluator.as_of)
        only = needed(type, wanted)
        beside = [*wanted.beside, *where.beside, *wanted.split&.beside].uniq
        return evaluator.timeline.events(type.name, first, beside, only: only) if wanted.keyed

        evaluator.events_beside(type.name, beside, first, only: only)
      end

      # Columns of the events that are looked at.
      def needed(type, wanted)
        asked = [*where.properties, *wanted.property, *wanted.split&.properties].uniq & type.properties.keys
        [*COLUMNS, *asked.map { |name| Ledger::Layout.property(name) }]
      end

      def condition(type, evaluator, window)
        inside = window.expression(evaluator.as_of, evaluator.calendar)
        where.empty? ? inside : inside & where.expression(type, evaluator.calendar)
      end

      # Whether every event of the type is meant, so that nothing need be copied.
      def all?(type, evaluator, window)
        return false unless where.empty? && window.ever? && window.weekdays.nil? && window.hours.nil?

        newest = evaluator.events(type.name)["day"].max
        newest.nil? || newest <= Calendar.number(evaluator.as_of)
      end

      def fact(type, row)
        { type: type.name, at: row["occurred_at"], day: row["day"], value: row["value"] }
      end

      def none(wanted)
        columns = Ledger::Layout::EVENT_COLUMNS.slice(*COLUMNS)
        columns = columns.merge("value" => Polars::Float64) if wanted.property
        columns = columns.merge("key" => Polars::UInt64) if wanted.keyed
        columns = columns.merge(wanted.beside.to_h { |name| [name, Polars::Int64] })
        columns = columns.merge("told" => Polars::String) if wanted.split
        Ledger::Layout.empty(columns)
      end
    end
  end
end
