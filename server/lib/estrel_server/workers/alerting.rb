# frozen_string_literal: true

module EstrelServer
  module Workers
    # Looks whether the conditions of alert rules hold as of the last day that has ended, and writes an alert for each
    # that does: at most one per rule and day.
    class Alerting
      # @param generation [Estrel::Ledger::Generation]
      # @param upkeep [Upkeep] by which a rule that fails is tried again
      def initialize(generation, upkeep = Upkeep.new("alerts"))
        @generation = generation
        @upkeep = upkeep
      end

      # @return [Array<AlertRule>] those that could not be looked at
      def run
        day = last_ended or return []
        AlertRule.includes(:rule_set).select do |alert_rule|
          name = "alert #{alert_rule.id}"
          @upkeep.step(name) { look(alert_rule, day) }
          @upkeep.failing?(name)
        end
      end

      # @param alert_rule [AlertRule]
      # @param day [Date]
      # @return [void]
      def look(alert_rule, day)
        return if Alert.exists?(alert_rule: alert_rule, about: day)

        text = told(alert_rule, day)
        Alert.create!(alert_rule: alert_rule, about: day, text: text, created_at: Time.now.utc) if text
      rescue ActiveRecord::RecordNotUnique
        nil # another process has raised it
      end

      # @return [Date, nil] nil while there is none
      def last_ended
        today = @generation.calendar.day_of(Process.clock_gettime(Process::CLOCK_REALTIME, :microsecond))
        @generation.newest_day && [@generation.newest_day, today - 1].min
      end

      private

      def told(alert_rule, day)
        record = alert_rule.rule_set || RuleSet.current
        rule_set = Answers::Asking.rule_set(record.rules_json, @generation.catalogue, of: record) or return
        question = Answers::Question.new(@generation, as_of: day, rule_set: rule_set, limited: false)
        Estrel::Lifecycle::AlertCondition.new(alert_rule.kind, alert_rule.settings).told(question.workspace(record))
      end
    end
  end
end
