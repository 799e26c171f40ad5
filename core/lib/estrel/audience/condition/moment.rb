# frozen_string_literal: true

module Estrel
  module Audience
    class Condition
      # *first time* and *last time*: the first or last selected event up to the as-of date falls inside a window; and
      # maybe some conditions hold then, on that event, or on one of several at the same instant. Frozen.
      class Moment < Condition
        def self.schema(_kind)
          Schema.object({ **Schema::SELECTION, "window" => Schema.reference("Window"),
                                               "then" => Schema::SELECTION.fetch("where") }, required: %w[window])
        end

        def self.read(body, place, reading, kind)
          selection = reading.selections.read(body, place)
          window = reading.fields.window(body["window"], "#{place}.window")
          held = selection && reading.selections.conditions(body["then"], selection, "#{place}.then")
          new(kind, selection, window, held) if held && window
        end

        # @return [String] "first" or "last"
        attr_reader :kind
        # @return [Selection]
        attr_reader :selection
        # @return [Window]
        attr_reader :window
        # @return [FilterGroup] the conditions that hold then
        attr_reader :held

        def initialize(kind, selection, window, held)
          @kind = kind
          @selection = selection
          @window = window
          @held = held
          freeze
        end

        # @param evaluator [Evaluator]
        # @return [Polars::Series] booleans over the ledger's profiles
        def mask(evaluator)
          rows = holding(outermost(evaluator), evaluator)
          rows = rows.join(evaluator.first_seen.lazy, on: "profile_id", how: "inner") if window.relative?
          inside = rows.filter(window.expression(evaluator.as_of, evaluator.calendar)).select("profile_id").collect
          evaluator.membership(inside["profile_id"])
        end

        # @return [Hash] plain JSON
        def to_h
          { kind => { **selection.to_h, "window" => window.to_h,
                                        **(held.empty? ? {} : { "then" => held.filters.map(&:to_h) }) } }
        end

        def parts(words)
          [words.plain("who"), *words.selected(selection, kind), words.plain("for the"),
           words.part("#{kind} time", "what", "moment", kind), words.window(window, kind),
           *words.conditions(selection, kind, held, "then", opening: "and then")]
        end

        def evidence(evaluator)
          events = selection.events_of(evaluator, Window.new)
          found = kind == "first" ? events.first : events.last
          did = evaluator.names.events(selection.events)
          return { found: "never #{did}", facts: [] } unless found

          day = English.date(Calendar.date(found[:day]))
          other = ", but the conditions were not met" if holding(outermost(evaluator), evaluator).collect.height.zero?
          { found: "#{did} for the #{kind} time on #{day}#{other}", **Facts.events([found], evaluator.names) }
        end

        private

        # Of each person, the first event or the last.
        def outermost(evaluator)
          profile = Polars.col("profile_id")
          neighbour = kind == "first" ? profile.shift(1) : profile.shift(-1)
          selection.rows(evaluator, Window.new).lazy.filter(profile.ne_missing(neighbour))
        end

        # Rows at an instant at which there is an event of the kind for which the conditions hold.
        def holding(rows, evaluator)
          return rows if held.empty?

          where = FilterGroup.new("all", [selection.where, held])
          fitting = Selection.new(selection.events, where).rows(evaluator, Window.new)
          rows.join(fitting.lazy.select(%w[profile_id occurred_at]), on: %w[profile_id occurred_at], how: "semi")
        end
      end
    end
  end
end
