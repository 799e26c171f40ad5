# frozen_string_literal: true

module Estrel
  module Audience
    # Asks the parts of a ledger one after the other and adds up what they say, so that a ledger may be larger than
    # memory. Answers everything of {Figures} as an {Evaluator} over the whole does.
    class PartByPart
      # The most people of a part. Parts cost some milliseconds each, which a preview feels, and it tells no progress.
      PEOPLE = 250_000
      private_constant :PEOPLE

      # @return [Date]
      attr_reader :as_of

      # @param ledger [Ledger::Generation, Ledger::ReceivedBy]
      # @param parts [Integer] in how many parts it is asked at least, see {Ledger::Readable#in_parts}
      # @param asked [Hash] as in {Evaluator#initialize}
      def initialize(ledger, parts: 1, **asked)
        @as_of = asked.fetch(:as_of)
        @parts = ledger.in_parts(parts, people: PEOPLE).map { |part| Evaluator.new(part, **asked) }
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

      # @return [Array<Array<String>>] see {Figures#listed}
      def listed(definition) = @parts.map { |part| part.listed(definition) }.transpose.map { |found| found.reduce(:|) }

      # @return [Hash{String => Integer}] see {Figures#state_mix}
      def state_mix(definition) = added { |part| part.state_mix(definition) }

      # @return [Hash{String => Integer}] see {Figures#reachable}
      def reachable(definition) = added { |part| part.reachable(definition) }

      # @return [Hash{Array => Integer}] see {Figures#combinations}
      def combinations(definitions, split: nil) = added { |part| part.combinations(definitions, split: split) }

      # @return [Hash{Symbol => Object}] see {Figures#movement}
      def movement(definition, from) = added { |part| part.movement(definition, from) }

      # @return [Hash{Symbol => Polars::Series}] see {Figures#moved}
      def moved(definition, from)
        found = @parts.map { |part| part.moved(definition, from) }
        found.first.keys.to_h { |name| [name, Polars.concat(found.map { |moved| moved[name] })] }
      end

      private

      def added(&block) = @parts.map(&block).reduce { |one, other| Analyses::Sum.of(one, other) }
    end
  end
end
