# frozen_string_literal: true

module Estrel
  module Audience
    module Clause
      # *kind*: visitors, contacts or customers, as they are known now. Frozen.
      class Kind
        KINDS = %w[visitor contact customer].freeze

        # @return [Array<String>] of {KINDS}, in their order
        attr_reader :kinds

        def initialize(kinds)
          @kinds = (KINDS & kinds).freeze
          freeze
        end

        # @param evaluator [Evaluator]
        # @return [Polars::Series] booleans over the ledger's profiles
        def mask(evaluator) = evaluator.kinds.is_in(kinds)

        # @return [Object] names what is computed completely
        def key = to_h

        # @return [Hash] plain JSON
        def to_h = { "kind" => { "is" => kinds } }
      end
    end
  end
end
