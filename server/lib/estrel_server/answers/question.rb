# frozen_string_literal: true

module EstrelServer
  module Answers
    # One question to the ledger: as of a date, using data received by another, under a rule set, and with what it may
    # cost.
    class Question
      # @return [Date]
      attr_reader :as_of
      # @return [Date, nil] nil for all that is known now
      attr_reader :received_by
      # @return [Estrel::Lifecycle::RuleSet, nil]
      attr_reader :rule_set
      # @return [Estrel::Ledger::Generation, Estrel::Ledger::ReceivedBy]
      attr_reader :ledger

      # @param generation [Estrel::Ledger::Generation]
      # @param as_of [Date]
      # @param rule_set [Estrel::Lifecycle::RuleSet, nil]
      # @param received_by [Date, nil]
      # @param cancelled [#call] tells whether nobody waits for the answer any more
      # @param limited [Boolean] whether time and memory are; a background worker may take as long as it takes
      # @param settings [Settings]
      def initialize(generation, as_of:, rule_set:, received_by: nil, cancelled: -> { false }, limited: true,
                     settings: EstrelServer.settings)
        @ledger = received_by ? generation.received_by(received_by) : generation
        @as_of = as_of
        @rule_set = rule_set
        @received_by = received_by
        @settings = settings
        limits = { seconds: settings.question_seconds, bytes: settings.question_memory_mb * 1_000_000 }
        @budget = Estrel::Budget.new(cancelled: cancelled, **(limited ? limits : {}))
      end

      # @return [Estrel::Catalogue]
      def catalogue = ledger.catalogue

      # @param as_of [Date]
      # @return [Estrel::Audience::PartByPart]
      def evaluator(as_of = @as_of)
        Estrel::Audience::PartByPart.new(ledger, parts: @settings.parts, as_of: as_of, budget: @budget,
                                                 asker: Pool.asker(ledger, @settings), **rules)
      end

      # The whole ledger asked at once.
      #
      # @return [Estrel::Audience::Evaluator]
      def whole = Estrel::Audience::Evaluator.new(ledger, as_of: as_of, budget: @budget, **rules)

      # What analyses are asked in.
      #
      # @param record [RuleSet] whose rules are those of the question
      # @return [Estrel::Analyses::Workspace]
      def workspace(record)
        today = Workspace.current.calendar.day_of(Process.clock_gettime(Process::CLOCK_REALTIME, :microsecond))
        Estrel::Analyses::Workspace.new(ledger: ledger, as_of: as_of, today: today, rules: rule_set,
                                        parts: @settings.parts, stored: Stored.new(catalogue, record, ledger),
                                        budget: @budget)
      end

      # @param rules [Estrel::Lifecycle::RuleSet, nil] nil for those of the question
      # @return [Estrel::Lifecycle] of whom the rule set is about at the as-of date
      def lifecycle(rules = nil)
        raise Error, "no event type counts as activity yet; import events or choose some" unless rules || rule_set

        whole.lifecycle(rules)
      end

      # @param profile_id [Integer]
      # @return [Estrel::Audience::Why]
      def why(profile_id) = Estrel::Audience::Why.new(ledger, profile_id, as_of: as_of, **rules)

      # @param definition [Estrel::Audience::Definition]
      # @return [Estrel::Audience::Sentence]
      def sentence(definition) = Estrel::Audience::Sentence.new(definition, catalogue)

      # @return [People]
      def people = People.new(self)

      private

      def rules = { rule_set: rule_set }
    end
  end
end
