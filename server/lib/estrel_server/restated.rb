# frozen_string_literal: true

module EstrelServer
  # Counts of past weeks as known at the time against as known now.
  class Restated
    # @param question [Question]
    # @param record [LifecyclePolicy]
    def initialize(question, record)
      @question = question
      @record = record
    end

    # @param from [Date]
    # @param to [Date]
    # @return [Array<Estrel::Lifecycle::Restatement::Row>] one per week's end; weeks before anything had been received
    #   are left out
    def rows(from, to)
      first = [from, first_received].compact.max
      last_sunday = to - (to.cwday % 7)
      return [] if first > last_sunday

      steps = Estrel::Lifecycle::Steps.covering("week", first, last_sunday)
      study.rows(steps).drop(1)
    end

    # @return [Date, nil] the day the first event was received
    def first_received
      micros = @question.ledger.facts["oldest_received_at"]
      micros && @question.ledger.calendar.day_of(micros)
    end

    # @return [PastRules]
    def past = @past ||= PastRules.new(@record, @question.ledger)

    private

    def study
      now = Estrel::Lifecycle::Restatement::Rules.new(@question.policy, @question.ledger.catalogue)
      Estrel::Lifecycle::Restatement.new(now, past: past.method(:at)) { |policy| @question.lifecycle(policy) }
    end
  end
end
