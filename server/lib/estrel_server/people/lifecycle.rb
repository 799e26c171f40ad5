# frozen_string_literal: true

module EstrelServer
  class People
    # How one person went through the states, what was thought of it at the time, and what comes next if nothing
    # happens.
    class Lifecycle
      # @param profile_id [Integer]
      # @param question [Question]
      def initialize(profile_id, question)
        @question = question
        @ledger = question.ledger.slice(profile_id..profile_id)
        @history = Estrel::Lifecycle::PersonHistory.new(Estrel::Lifecycle.new(@ledger, question.rule_set),
                                                        question.as_of)
      end

      # @return [Hash] plain JSON
      def to_h
        { as_of: @question.as_of, about: about?, **@history.to_h }
      end

      private

      def about?
        rule_set = @question.rule_set
        !rule_set.limited? || @question.whole.among(@ledger.profiles["profile_id"]).population(rule_set).any?
      end
    end
  end
end
