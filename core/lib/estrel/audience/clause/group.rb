# frozen_string_literal: true

module Estrel
  module Audience
    module Clause
      # `all` and `any`: clauses joined together. Frozen. An empty `all` fits everybody, an empty `any` nobody.
      class Group
        # @return [String] "all" or "any"
        attr_reader :kind
        # @return [Array] clauses
        attr_reader :clauses

        def initialize(kind, clauses)
          @kind = kind
          @clauses = clauses.freeze
          freeze
        end

        # @param evaluator [Evaluator]
        # @return [Polars::Series] booleans over the ledger's profiles
        def mask(evaluator)
          masks = clauses.map { |clause| evaluator.mask(clause) }
          return evaluator.constant(kind == "all") if masks.empty?

          masks.reduce { |left, right| kind == "all" ? left & right : left | right }
        end

        # @return [Object] names what is computed completely
        def key = [kind, *clauses.map(&:key)]

        # @return [Hash] plain JSON
        def to_h = { kind => clauses.map(&:to_h) }
      end
    end
  end
end
