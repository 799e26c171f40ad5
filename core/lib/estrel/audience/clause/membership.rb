# frozen_string_literal: true

module Estrel
  module Audience
    module Clause
      # *in another audience*: whoever is in it as of the same date. Frozen.
      class Membership
        # @return [Integer] id of the audience
        attr_reader :audience
        # @return [String]
        attr_reader :name
        # @return [Definition]
        attr_reader :definition

        def initialize(audience, name, definition)
          @audience = audience
          @name = name.dup.freeze
          @definition = definition
          freeze
        end

        # @param evaluator [Evaluator]
        # @return [Polars::Series] booleans over the ledger's profiles
        def mask(evaluator) = evaluator.mask(definition.root)

        # @return [Object] names what is computed completely: not the number, behind which another definition may stand
        #   tomorrow
        def key = definition.root.key

        # @return [Hash] plain JSON
        def to_h = { "audience" => { "id" => audience } }
      end
    end
  end
end
