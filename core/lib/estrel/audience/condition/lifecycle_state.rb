# frozen_string_literal: true

module Estrel
  module Audience
    class Condition
      # *lifecycle*: people in one of the named states, under the default rule set: at the as-of date, on another date,
      # for at least so many days, or who entered them within the last days. Frozen.
      class LifecycleState < Condition
        def self.schema(_kind)
          states = Schema.list("uniqueItems" => true, "items" => Schema.reference("State"))
          days = Schema.whole(1..36_500)
          Schema.object({ "is" => states, "on" => Schema.reference("Date"), "for_at_least_days" => days,
                          "entered_last_days" => days, "from" => states, "reactivated" => { "type" => "boolean" },
                          "rule_set" => Schema.reference("RuleSetReference") }, required: %w[is])
        end

        def self.read(body, place, reading, _kind)
          return unless makes_sense?(body, place, reading)

          on = body["on"] && reading.fields.day(body["on"], "#{place}.on")
          return if body["on"] && on.nil?

          rules = read_rules(body["rule_set"], "#{place}.rule_set", reading) or return
          new(body["is"], on: on, for_days: body["for_at_least_days"], from: body["from"],
                          entered_days: body["entered_last_days"], reactivated: body["reactivated"], **rules)
        end

        def self.makes_sense?(body, place, reading)
          times = body.slice("on", "for_at_least_days", "entered_last_days")
          fault = if times.size > 1 then ["", "choose only one of: on a date, for at least … days, entered in the " \
                                              "last … days"]
                  elsif body["from"] && (body["on"] || body["for_at_least_days"])
                    [".from", "“previous state” works only with the current state or a recently entered one"]
                  elsif !body["reactivated"].nil? && body["for_at_least_days"]
                    [".reactivated", "“reactivated” works only for now, on a date, or recently entered"]
                  end
          fault.nil? || reading.fault("#{place}#{fault.first}", fault.last)
        end
        private_class_method :makes_sense?

        def self.read_rules(reference, place, reading)
          found = reading.rules(reference)
          return reading.fault(place, found.fault) if found&.fault
          return {} if reference.nil?
          return reading.fault(place, "choose the lifecycle rules to use") unless found

          { reference: reference, rule_set: found.rule_set, rule_set_name: found.name }
        end
        private_class_method :read_rules

        # @return [Array<String>] of {Lifecycle::STATES}, in their order
        attr_reader :states
        # @return [Date, nil] "were on"
        attr_reader :on
        # @return [Integer, nil] "have been for at least N days": so many days ago already, and ever since
        attr_reader :for_days
        # @return [Integer, nil] "entered within the last N days"
        attr_reader :entered_days
        # @return [Array<String>, nil] from which states they entered, or which the present one followed; nil for any
        attr_reader :from
        # @return [Boolean, nil] having been reactivated shortly before, or not: marked as reactivated then, or, where
        #   it is said how they entered or came into the state, on the day before; nil where it does not matter
        attr_reader :reactivated
        # @return [Hash, nil]
        attr_reader :reference
        # @return [Lifecycle::RuleSet, nil]
        attr_reader :rule_set
        # @return [String, nil]
        attr_reader :rule_set_name

        # @param reference [Hash, nil] names a rule set: its number `id` and, where a version is meant, `version`
        # @param rule_set [Lifecycle::RuleSet, nil] the one named; nil for the default one
        # @param rule_set_name [String, nil]
        def initialize(states, on: nil, for_days: nil, entered_days: nil, from: nil, reactivated: nil, reference: nil,
                       rule_set: nil, rule_set_name: nil)
          @states = (Lifecycle::STATES & states).freeze
          @on = on
          @for_days = for_days
          @entered_days = entered_days
          @reactivated = reactivated
          @reference = reference&.freeze
          @rule_set = rule_set
          @rule_set_name = rule_set_name
          @from = from && (Lifecycle::STATES & from).freeze
          freeze
        end

        # @param evaluator [Evaluator]
        # @return [Polars::Series] booleans over the ledger's profiles
        def mask(evaluator)
          return entered(evaluator) if entered_days
          return been(evaluator) if for_days
          return came(evaluator) if from

          date = [on, evaluator.as_of].compact.min
          mask = current(evaluator.states(date, rule_set))
          on ? mask & evaluator.seen(date) : mask
        end

        # @return [Object] names what is computed completely
        def key = [to_h, rule_set&.key]

        # @return [Hash] plain JSON
        def to_h
          { "lifecycle" => { "is" => states, "on" => on&.iso8601, "for_at_least_days" => for_days,
                             "entered_last_days" => entered_days, "from" => from,
                             "reactivated" => reactivated, "rule_set" => reference }.compact }
        end

        def parts(words)
          rules = reference ? [words.part(rules_said, "state", "states", "lifecycle")] : []
          [*(on || for_days ? past_parts(words) : present_parts(words)), *rules]
        end

        # Whoever the rule set is not about is in none of its states, and not said to be outside them.
        def denied(words)
          return if on || for_days || entered_days || from || !reactivated.nil? || reference

          [words.plain("who are not"), states_part(words)]
        end

        def evidence(evaluator)
          date = [on, evaluator.as_of].compact.min
          row = evaluator.states(date, rule_set).rows(named: true).first
          return { found: "not covered by the rule set", facts: [] } if row["state"].nil?
          return { found: "no activity by #{English.date(date)}", facts: [] } if row["last_day"].nil?

          last = Calendar.date(row["last_day"])
          inactive = Facts.number(row["inactive_days"], "day")
          { found: "#{English.state(row["state"])} on #{English.date(date)}, inactive for #{inactive}",
            facts: [{ what: "last activity", at: evaluator.calendar.start_of(last), day: true }] }
        end

        def costly? = true

        private

        # Nobody the rule set is not about is in any of the states.
        def current(found)
          inside = Polars.col("state").is_in(states)
          inside &= marked("reactivated")
          found.select([inside.fill_null(false).alias("mask")])["mask"]
        end

        # @return [Polars::Expr] whether people are marked as is asked
        def marked(column)
          return Polars.lit(true) if reactivated.nil?

          mark = Polars.col(column).fill_null(false)
          reactivated ? mark : mark.is_not
        end

        # Whose present state followed one of `from`.
        def came(evaluator)
          last = Calendar.number(evaluator.as_of)
          from, to, state, before = %w[from to state before].map { |name| Polars.col(name) }
          condition = state.is_in(states) & (from <= last) & (to > last) & before.is_in(self.from)
          condition &= marked("before_reactivated")
          evaluator.membership(evaluator.lifecycle(rule_set).intervals(nil).filter(condition)["profile_id"])
        end

        # A day on which the state is one of these and the day before it was not (but one of `from`).
        def entered(evaluator)
          last = Calendar.number(evaluator.as_of)
          state, before = %w[state before].map { |name| Polars.col(name) }
          condition = state.is_in(states) & before.is_in(states).is_not &
                      Polars.col("from").is_between(last - entered_days + 1, last)
          condition &= before.is_in(from) if from
          condition &= marked("before_reactivated")
          intervals = evaluator.lifecycle(rule_set).intervals(evaluator.as_of - entered_days - looked_back(evaluator))
          evaluator.membership(intervals.filter(condition)["profile_id"])
        end

        # The mark rests on when the spell before began, so more has to be right.
        def looked_back(evaluator)
          reactivated.nil? ? 0 : (2 * (rule_set || evaluator.rule_set).active_within) + 2
        end

        # The days of these states since then fill the whole time.
        def been(evaluator)
          last = Calendar.number(evaluator.as_of)
          first = last - for_days
          intervals = evaluator.lifecycle(rule_set).intervals(evaluator.as_of - for_days)
          touching = (Polars.col("to") > first) & (Polars.col("from") <= last)
          inside = intervals.filter(Polars.col("state").is_in(states) & touching)
          days = Polars.col("to").clip(first, last + 1) - Polars.col("from").clip(first, last + 1)
          whole = inside.lazy.group_by("profile_id").agg([days.sum.alias("days")]).filter(Polars.col("days") > for_days)
          evaluator.membership(whole.select("profile_id").collect["profile_id"])
        end

        def states_part(words, named = states)
          words.part(English.either(named.map { |state| English.state(state) }), "state", "states", "lifecycle")
        end

        def span_part(words, text) = words.part(text, "when", "states", "lifecycle")

        def reactivated_parts(words)
          return [] if reactivated.nil?

          [words.plain(reactivated ? "and recently reactivated" : "not having been reactivated")]
        end

        def past_parts(words)
          if on
            return [words.plain("who were"), states_part(words), *reactivated_parts(words),
                    span_part(words, "on #{English.date(on)}")]
          end

          [words.plain("who have been"), states_part(words),
           span_part(words, "for at least #{English.counted(for_days, "day")}")]
        end

        def present_parts(words)
          before = from && states_part(words, from)
          unless entered_days
            were = before ? [words.plain("and were"), before, words.plain("before")] : []
            return [words.plain("who are"), states_part(words), *were, *reactivated_parts(words)]
          end

          [words.plain("who became"), states_part(words), *(before && [words.plain("from"), before]),
           *reactivated_parts(words), span_part(words, "in the last #{days(entered_days)}")]
        end

        def rules_said
          return "by custom rules" if reference["rules"]

          "as #{English.quoted(rule_set_name)}#{" version #{reference["version"]}" if reference["version"]}"
        end

        def days(count) = count == 1 ? "day" : "#{count} days"
      end
    end
  end
end
