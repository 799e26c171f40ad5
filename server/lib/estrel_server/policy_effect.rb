# frozen_string_literal: true

module EstrelServer
  # What other rules would make of everybody, as of a date: people per state under the policy of the question and under
  # the rules, and from which state to which they would change.
  class PolicyEffect
    # @param question [Question]
    # @param rules [Estrel::Lifecycle::Policy]
    def initialize(question, rules)
      @question = question
      @rules = rules
    end

    # @return [Hash] `states` and `table` as in {Estrel::Lifecycle::STATES}, "outside" being whom a policy is not about
    def to_h
      rows = pairs
      names = [*Estrel::Lifecycle::STATES, "outside"]
      table = names.map { |before| names.map { |after| rows.fetch([before, after], 0) } }
      { as_of: @question.as_of, states: names, table: table, before: table.map(&:sum),
        after: table.transpose.map(&:sum),
        changed: rows.sum { |(before, after), people| before == after ? 0 : people }, rules: @rules.to_h }
    end

    private

    def pairs
      asked = @question.whole
      before, after = [nil, @rules].map { |policy| asked.states(@question.as_of, policy)["state"].to_a }
      seen = asked.seen(@question.as_of).to_a
      before.zip(after, seen).filter_map { |one, other, known| [one || "outside", other || "outside"] if known }.tally
    end
  end
end
