# frozen_string_literal: true

module Estrel
  module Audience
    class Condition
      # *profile type*: visitors, contacts or customers, as they are known now. Frozen.
      class ProfileType < Condition
        TYPES = %w[visitor contact customer].freeze

        def self.schema(_key) = Schema.object({ "is" => Schema.some_of(TYPES) }, required: %w[is])

        def self.read(body, _place, _reading, _key) = new(body["is"])

        # @return [Array<String>] of {TYPES}, in their order
        attr_reader :types

        def initialize(types)
          @types = (TYPES & types).freeze
          freeze
        end

        # @param evaluator [Evaluator]
        # @return [Polars::Series] booleans over the ledger's profiles
        def mask(evaluator) = evaluator.profile_types.is_in(types)

        # @return [Hash] plain JSON
        def to_h = { "profile_type" => { "is" => types } }

        def parts(words)
          [words.plain("who are"), words.part(English.either(types.map do |type|
            "#{type}s"
          end), "who", "types", "profile_type")]
        end

        def evidence(evaluator) = { found: "A #{evaluator.profile_types[0]}" }
      end
    end
  end
end
