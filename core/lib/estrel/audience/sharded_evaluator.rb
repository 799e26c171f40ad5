# frozen_string_literal: true

module Estrel
  module Audience
    # Asks the parts of a ledger one after the other and adds up what they say, so that a ledger may be larger than
    # memory. Answers everything of {Figures} as an {Evaluator} over the whole does.
    class ShardedEvaluator
      # @return [Date]
      attr_reader :as_of

      # @param ledger [Ledger::Generation, Ledger::KnownOn]
      # @param shards [Integer] how many parts; more are made where {Ledger::Timeline} needs more
      # @param asked [Hash] as in {Evaluator#initialize}
      def initialize(ledger, shards:, **asked)
        @as_of = asked.fetch(:as_of)
        @parts = ledger.shards([shards, ledger.parts_needed].max).map { |part| Evaluator.new(part, **asked) }
      end

      # @return [Polars::Series] see {Figures#members}
      def members(definition) = Polars.concat(@parts.map { |part| part.members(definition) })

      # @return [Integer] see {Figures#size}
      def size(definition) = @parts.sum { |part| part.size(definition) }

      # @return [Integer] see {Figures#base}
      def base = @parts.sum(&:base)

      # @return [Array<Hash{Symbol => Object}>] see {Figures#steps}
      def steps(definition) = added { |part| part.steps(definition) }

      # @return [Integer] see {Figures#undecided}
      def undecided(definition) = @parts.sum { |part| part.undecided(definition) }

      # @return [Hash{String => Integer}] see {Figures#state_mix}
      def state_mix(definition) = added { |part| part.state_mix(definition) }

      # @return [Hash{String => Integer}] see {Figures#reachable}
      def reachable(definition) = added { |part| part.reachable(definition) }

      # @return [Hash{Array => Integer}] see {Figures#combinations}
      def combinations(definitions, split: nil) = added { |part| part.combinations(definitions, split: split) }

      # @return [Hash{Symbol => Object}] see {Figures#movement}
      def movement(definition, from) = added { |part| part.movement(definition, from) }

      private

      def added(&block) = @parts.map(&block).reduce { |left, right| sum(left, right) }

      # Numbers add up, wherever they stand.
      def sum(left, right)
        case left
        when Hash then left.merge(right) { |_, one, other| sum(one, other) }
        when Array then left.zip(right).map { |one, other| sum(one, other) }
        when nil then right
        else left + right
        end
      end
    end
  end
end
