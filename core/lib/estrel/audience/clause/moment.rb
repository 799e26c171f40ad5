# frozen_string_literal: true

module Estrel
  module Audience
    module Clause
      # *first time* and *last time*: the first or last selected event up to the as-of date falls inside a window.
      # Frozen.
      class Moment
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

        # @return [Object] names what is computed completely
        def key = to_h

        # @return [Hash] plain JSON
        def to_h = { kind => { **selection.to_h, "window" => window.to_h } }
      end
    end
  end
end
