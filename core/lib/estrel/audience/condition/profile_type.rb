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

        def parts(words) = said(words, "who are")

        def denied(words) = said(words, "who are not")

        def evidence(evaluator) = { found: "A #{evaluator.profile_types[0]}" }

        private

        def said(words, opening)
          named = English.either(types.map { |type| "#{type}s" })
          [words.plain(opening), words.part(named, "who", "types", "profile_type")]
        end
      end
    end
  end
end
