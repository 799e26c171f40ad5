# frozen_string_literal: true

module Estrel
  module Audience
    # Asks the parts of a ledger, in turn or wherever the asker has them answered, and adds up what they say, so that a
    # ledger may be larger than memory. Answers everything of {Figures} as an {Evaluator} over the whole does.
    class PartByPart
      # The most people of a part. Parts cost some milliseconds each, which a preview feels, and it tells no progress.
      PEOPLE = 250_000
      private_constant :PEOPLE

      # What each part is asked: figures by their names, with what they are of.
      class Asked
        # @return [String] see {Analyses::Analysis.address}
        def self.address = "audience"

        # @return [Analyses::Workspace]
        attr_reader :workspace

        # @param figures [Array<Array>] names of {Figures}, with their arguments
        # @param workspace [Analyses::Workspace]
        def initialize(figures, workspace)
          @figures = figures
          @workspace = workspace
        end

        # @param part [Evaluator]
        # @return [Array<Object>] one for each figure
        def asked_of(part, _found) = @figures.map { |name, *of| part.public_send(name, *of) }
      end

      # @return [Date]
      attr_reader :as_of

      # @param ledger [Ledger::Generation, Ledger::ReceivedBy]
      # @param as_of [Date]
      # @param rule_set [Lifecycle::RuleSet, nil]
      # @param budget [Budget]
      # @param parts [Integer] in how many parts it is asked at least, see {Ledger::Readable#in_parts}
      # @param asker [#ask] puts the question to the parts, see {Analyses::InTurn#ask}
      def initialize(ledger, as_of:, rule_set: nil, budget: Budget::NONE, parts: 1, asker: Analyses::InTurn)
        @as_of = as_of
        @asker = asker
        @workspace = Analyses::Workspace.new(ledger: ledger, as_of: as_of, today: as_of, rules: rule_set,
                                             budget: budget, parts: parts, people: PEOPLE)
      end

      # Several figures at once, which goes over the parts once.
      #
      # @param asked [Array<Array>] names, with their arguments: `[:size, definition], [:base]`
      # @return [Array<Object>] one for each
      def figures(*asked)
        found = @asker.ask(Asked.new(asked, @workspace), []) { |_, _| nil }
        asked.zip(found.transpose).map { |(name, *), parts| together(name, parts) }
      end

      # @return [Polars::Series] see {Figures#members}
      def members(definition) = figures([:members, definition]).first

      # @return [Integer] see {Figures#size}
      def size(definition) = figures([:size, definition]).first

      # @return [Integer] see {Figures#base}
      def base = figures([:base]).first

      # @return [Array<Hash{Symbol => Object}>] see {Figures#steps}
      def steps(definition) = figures([:steps, definition]).first

      # @return [Integer] see {Figures#undecided}
      def undecided(definition) = figures([:undecided, definition]).first

      # @return [Array<Array<String>>] see {Figures#listed}
      def listed(definition) = figures([:listed, definition]).first

      # @return [Hash{String => Integer}] see {Figures#state_mix}
      def state_mix(definition) = figures([:state_mix, definition]).first

      # @return [Hash{String => Integer}] see {Figures#reachable}
      def reachable(definition) = figures([:reachable, definition]).first

      # @return [Hash{Array => Integer}] see {Figures#combinations}
      def combinations(definitions, split = nil) = figures([:combinations, definitions, split]).first

      # @return [Hash{Symbol => Object}] see {Figures#movement}
      def movement(definition, from) = figures([:movement, definition, from]).first

      # @return [Hash{Symbol => Polars::Series}] see {Figures#moved}
      def moved(definition, from) = figures([:moved, definition, from]).first

      private

      def together(name, parts)
        case name
        when :members then Polars.concat(parts)
        when :moved then parts.first.keys.to_h { |key| [key, Polars.concat(parts.map { |part| part[key] })] }
        when :listed then parts.transpose.map { |found| found.reduce(:|) }
        else parts.reduce { |one, other| Analyses::Sum.of(one, other) }
        end
      end
    end
  end
end
