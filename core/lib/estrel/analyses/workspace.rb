# frozen_string_literal: true

module Estrel
  module Analyses
    # What a question is put to: the ledger in its parts, the dates, the lifecycle rules, and what the question names by
    # number.
    class Workspace
      # @return [Ledger::Readable]
      attr_reader :ledger
      # @return [Date]
      attr_reader :as_of
      # @return [Date] days from today on have not ended
      attr_reader :today
      # @return [Lifecycle::RuleSet, nil] nil where nothing counts as activity
      attr_reader :rules
      # @return [Stored] what is asked about by number
      attr_reader :stored
      # @return [Budget]
      attr_reader :budget

      # @param ledger [Ledger::Readable]
      # @param as_of [Date]
      # @param today [Date]
      # @param rules [Lifecycle::RuleSet, nil]
      # @param stored [Stored]
      # @param budget [Budget] asked before each part, and before whatever takes long within one
      # @param parts [Integer] in how many parts the ledger is asked at least
      # @param people [Integer] how many people a part has at most
      def initialize(ledger:, as_of:, today:, rules: nil, stored: Stored.new, budget: Budget::NONE, parts: 1,
                     people: Ledger::Readable::PEOPLE)
        @ledger = ledger
        @as_of = as_of
        @today = today
        @rules = rules
        @stored = stored
        @budget = budget
        @number = parts
        @people = people
      end

      # @return [Array<Audience::Evaluator>] of one part of the ledger each
      def parts
        ledger.in_parts(@number, people: @people).map { |part| evaluator(part) }
      end

      # One of {#parts}, without those in other pieces of the ledger, which need not be here.
      #
      # @param index [Integer]
      # @return [Audience::Evaluator]
      def part(index) = evaluator(ledger.part(@number, index))

      # @param part [Ledger::Readable]
      # @return [Audience::Evaluator]
      def evaluator(part) = Audience::Evaluator.new(part, as_of: as_of, rule_set: rules, budget: budget)

      # @param ledger [Ledger::Readable]
      # @return [Workspace] the same but for what is asked
      def of(ledger) = dup.put_to(ledger, parts: @number, budget: budget)

      # The same in parts that so many can take at once, as many each as can be.
      #
      # @param takers [Integer]
      # @return [self]
      def for_takers(takers)
        @number = (ledger.part_count(@number, @people).fdiv(takers).ceil * takers)
        self
      end

      # What goes to another process, to be put to a ledger there. What is stored stays behind: by then it has been
      # looked up, see {Analysis#key}.
      #
      # @return [Array]
      def marshal_dump = [as_of, today, rules, @people]

      # @return [void]
      def marshal_load(dumped)
        @as_of, @today, @rules, @people = dumped
      end

      # @param ledger [Ledger::Readable]
      # @param parts [Integer]
      # @param budget [Budget]
      # @return [self]
      def put_to(ledger, parts:, budget: Budget::NONE)
        @ledger = ledger
        @number = parts
        @budget = budget
        self
      end

      # @return [Array] what an answer depends on besides the ledger, as plain data
      def key = [as_of, today, rules&.key, stored.rules_condition]

      # @return [Catalogue]
      def catalogue = ledger.catalogue

      # @return [Boolean] whether the as-of date has ended
      def ended? = as_of < today
    end
  end
end
