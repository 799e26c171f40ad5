# frozen_string_literal: true

module Estrel
  module Audience
    # Why one person is in an audience or not: every condition with its verdict and what it rests on.
    #
    # The person's part of the ledger is evaluated as the whole is, by the same rules; {Condition#evidence} then
    # tells what they found. How near a condition is to holding lies between 0 (nothing of it) and 1 (it holds).
    class Why
      # The longest time looked back for the day on which somebody became a member.
      MAX_LOOK_BACK = 366

      # One condition, its place in the definition, whether it holds and how near it is to that, what was found and what
      # was asked for, the facts behind it and how many `more` there are (see {Condition#evidence}), and the verdicts
      # on the conditions inside it.
      Verdict = Struct.new(:condition, :place, :holds, :nearness, :found, :asked, :facts, :more, :conditions,
                           keyword_init: true)

      # @param ledger [Ledger::Generation, Ledger::ReceivedBy]
      # @param profile_id [Integer]
      # @param asked [Hash] as_of and rule set as in {Evaluator#initialize}
      def initialize(ledger, profile_id, **asked)
        @evaluator = Evaluator.new(ledger.slice(profile_id..profile_id), **asked)
      end

      # @param definition [Definition]
      # @return [Boolean]
      def member?(definition) = @evaluator.size(definition) == 1

      # @return [Boolean] whether the person had been seen by the as-of date
      def seen? = @evaluator.base == 1

      # @param definition [Definition]
      # @return [Array<Verdict>] of the top-level conditions
      def verdicts(definition)
        definition.conditions.each_with_index.map { |condition, index| verdict(condition, definition.place(index)) }
      end

      # The condition a person who is out comes nearest to fulfilling, of those that do not hold.
      #
      # @param verdicts [Array<Verdict>]
      # @return [Verdict, nil] nil where all hold
      def self.nearest(verdicts) = verdicts.reject(&:holds).max_by(&:nearness)

      # The first day of the membership that holds as of the date.
      #
      # @param definition [Definition]
      # @return [Date, nil] nil where the person is no member, or has been for more than {MAX_LOOK_BACK} days
      def member_since(definition)
        return unless member?(definition)

        first = (1..MAX_LOOK_BACK).find { |ago| @evaluator.at(@evaluator.as_of - ago).size(definition).zero? }
        first && (@evaluator.as_of - first + 1)
      end

      private

      def verdict(condition, place)
        holds = @evaluator.mask(condition).any?
        inner = condition.explained(place).map { |where, one| verdict(one, where) }
        evidence = { found: nil, asked: nil, facts: [], more: 0, **condition.evidence(@evaluator) }
        nearness = holds ? 1.0 : condition.nearness(evidence, inner.map(&:nearness))
        Verdict.new(**evidence, condition: condition, place: place, holds: holds, nearness: nearness, conditions: inner)
      end
    end
  end
end
