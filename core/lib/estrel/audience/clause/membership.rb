# frozen_string_literal: true

module Estrel
  module Audience
    module Clause
      # *in another audience*: whoever is in it as of the same date, or was in it as of an earlier one. Frozen.
      class Membership
        # @return [Integer] id of the audience
        attr_reader :audience
        # @return [String]
        attr_reader :name
        # @return [Definition]
        attr_reader :definition
        # @return [Date, nil] "were on"
        attr_reader :on

        def initialize(audience, name, definition, on: nil)
          @audience = audience
          @on = on
          @name = name.dup.freeze
          @definition = definition
          freeze
        end

        # @param evaluator [Evaluator]
        # @return [Polars::Series] booleans over the ledger's profiles
        def mask(evaluator)
          return evaluator.mask(definition.root) unless on

          then_on = evaluator.at([on, evaluator.as_of].min)
          then_on.seen(then_on.as_of) & then_on.mask(definition.root)
        end

        # @return [Object] names what is computed completely: not the number, behind which another definition may stand
        #   tomorrow
        def key = on ? [on, definition.root.key] : definition.root.key

        # @return [Hash] plain JSON
        def to_h = { "audience" => { "id" => audience, "on" => on&.iso8601 }.compact }
      end
    end
  end
end
