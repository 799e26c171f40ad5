# frozen_string_literal: true

module Estrel
  module Audience
    module Clause
      # *lifecycle*: people in one of the named states at the as-of date, under the policy in force. Frozen.
      class LifecycleState
        # @return [Array<String>] of {Lifecycle::STATES}, in their order
        attr_reader :states

        def initialize(states)
          @states = (Lifecycle::STATES & states).freeze
          freeze
        end

        # @param evaluator [Evaluator]
        # @return [Polars::Series] booleans over the ledger's profiles
        def mask(evaluator) = evaluator.states["state"].is_in(states)

        # @return [Hash] plain JSON
        def to_h = { "lifecycle" => { "is" => states } }
      end
    end
  end
end
