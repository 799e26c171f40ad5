# frozen_string_literal: true

module Estrel
  module Audience
    module Clause
      # *within one visit*: something of every selection happened inside one and the same visit. Frozen.
      class SameVisit
        # @return [Array<Selection>]
        attr_reader :selections
        # @return [Window]
        attr_reader :window

        def initialize(selections, window)
          @selections = selections.freeze
          @window = window
          freeze
        end

        # The visits of each selection never fall from row to row, so repeats are dropped by looking at the row before;
        # a visit that all of them have stands as often as there are selections.
        #
        # @param evaluator [Evaluator]
        # @return [Polars::Series] booleans over the ledger's profiles
        def mask(evaluator)
          visit = Polars.col("visit")
          visits = selections.map do |selection|
            marked = evaluator.visits(window).marked(selection.rows(evaluator, window, keyed: true))
            marked.select(%w[profile_id visit]).filter(visit.ne_missing(visit.shift(1)))
          end
          all = visits.one? ? visits.first : Polars.concat(visits).sort("visit")
          evaluator.membership(all.filter(visit == visit.shift(selections.size - 1))["profile_id"])
        end

        # @return [Object] names what is computed completely
        def key = to_h

        # @return [Hash] plain JSON
        def to_h = { "visit" => { "all" => selections.map(&:to_h), "window" => window.to_h } }
      end
    end
  end
end
