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

        # @param evaluator [Evaluator]
        # @return [Polars::Series] booleans over the ledger's profiles
        def mask(evaluator)
          visits = selections.map do |selection|
            evaluator.visits.marked(selection.rows(evaluator, window)).select(%w[profile_id visit]).unique
          end
          shared = visits.reduce { |left, right| left.join(right, on: %w[profile_id visit], how: "inner") }
          evaluator.membership(shared["profile_id"])
        end

        # @return [Object] names what is computed completely
        def key = to_h

        # @return [Hash] plain JSON
        def to_h = { "visit" => { "all" => selections.map(&:to_h), "window" => window.to_h } }
      end
    end
  end
end
