# frozen_string_literal: true

module Estrel
  module Audience
    module Clause
      # *reachable* by one of the named channels at the end of the as-of date, see {Reach}. Frozen.
      class Reachable
        # @return [Array<String>] of {Reach::CHANNELS}, in their order
        attr_reader :channels

        def initialize(channels)
          @channels = (Reach::CHANNELS & channels).freeze
          freeze
        end

        # @param evaluator [Evaluator]
        # @return [Polars::Series] booleans over the ledger's profiles
        def mask(evaluator) = channels.map { |channel| evaluator.reach.mask(channel) }.reduce(:|)

        # @return [Object] names what is computed completely
        def key = to_h

        # @return [Hash] plain JSON
        def to_h = { "reachable" => { "by" => channels } }
      end
    end
  end
end
