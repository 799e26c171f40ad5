# frozen_string_literal: true

module Estrel
  # A named group of people is a definition; its members are always computed.
  #
  # {Definition} is the frozen tree of conditions, {Evaluator} finds who fits it, {Sentence} says it in English.
  module Audience
    # A definition that cannot be used. `errors` lists every fault as `{place:, message:}`, the place being a path such
    # as `all[1].did.where[0].property`.
    class Invalid < Error
      # @return [Array<Hash{Symbol => String}>]
      attr_reader :errors

      def initialize(errors)
        @errors = errors.freeze
        super(errors.map { |error| error[:message] }.join("; "))
      end
    end
  end
end
