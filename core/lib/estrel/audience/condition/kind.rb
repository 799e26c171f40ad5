# frozen_string_literal: true

module Estrel
  module Audience
    class Condition
      # *kind*: visitors, contacts or customers, as they are known now. Frozen.
      class Kind < Condition
        KINDS = %w[visitor contact customer].freeze

        def self.schema(_kind) = Schema.object({ "is" => Schema.some_of(KINDS) }, required: %w[is])

        def self.read(body, _place, _reading, _kind) = new(body["is"])

        # @return [Array<String>] of {KINDS}, in their order
        attr_reader :kinds

        def initialize(kinds)
          @kinds = (KINDS & kinds).freeze
          freeze
        end

        # @param evaluator [Evaluator]
        # @return [Polars::Series] booleans over the ledger's profiles
        def mask(evaluator) = evaluator.kinds.is_in(kinds)

        # @return [Hash] plain JSON
        def to_h = { "kind" => { "is" => kinds } }

        def parts(words)
          [words.plain("who are"), words.part(English.either(kinds.map { |kind| "#{kind}s" }), "who", "kinds", "kind")]
        end

        def evidence(evaluator) = { found: "A #{evaluator.kinds[0]}" }
      end
    end
  end
end
