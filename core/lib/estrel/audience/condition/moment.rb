# frozen_string_literal: true

module Estrel
  module Audience
    class Condition
      # *first time* and *last time*: the first or last selected event up to the as-of date falls inside a window.
      # Frozen.
      class Moment < Condition
        def self.schema(_kind)
          Schema.object({ **Schema::SELECTION, "window" => Schema.reference("Window") }, required: %w[window])
        end

        def self.read(body, place, reading, kind)
          selection = reading.selections.read(body, place)
          window = reading.fields.window(body["window"], "#{place}.window")
          new(kind, selection, window) if selection && window
        end

        # @return [String] "first" or "last"
        attr_reader :kind
        # @return [Selection]
        attr_reader :selection
        # @return [Window]
        attr_reader :window

        def initialize(kind, selection, window)
          @kind = kind
          @selection = selection
          @window = window
          freeze
        end

        # @param evaluator [Evaluator]
        # @return [Polars::Series] booleans over the ledger's profiles
        def mask(evaluator)
          profile = Polars.col("profile_id")
          neighbour = kind == "first" ? profile.shift(1) : profile.shift(-1)
          rows = selection.rows(evaluator, Window.new).lazy.filter(profile.ne_missing(neighbour))
          rows = rows.join(evaluator.first_seen.lazy, on: "profile_id", how: "inner") if window.relative?
          inside = rows.filter(window.expression(evaluator.as_of, evaluator.calendar)).select("profile_id").collect
          evaluator.membership(inside["profile_id"])
        end

        # @return [Hash] plain JSON
        def to_h = { kind => { **selection.to_h, "window" => window.to_h } }

        def parts(words)
          [words.plain("who"), *words.selected(selection, kind), words.plain("for the"),
           words.part("#{kind} time", "what", "moment", kind), words.window(window, kind)]
        end

        def evidence(evaluator)
          events = selection.events_of(evaluator, Window.new)
          found = kind == "first" ? events.first : events.last
          did = evaluator.names.events(selection.events)
          return { found: "never #{did}", facts: [] } unless found

          day = English.date(Calendar.date(found[:day]))
          { found: "#{did} for the #{kind} time on #{day}", **Facts.events([found], evaluator.names) }
        end
      end
    end
  end
end
