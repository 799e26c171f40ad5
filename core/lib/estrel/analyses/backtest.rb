# frozen_string_literal: true

module Estrel
  module Analyses
    # At each past week's end: who was called churned, and how many of them were reactivated. People add up over the
    # parts.
    class Backtest < Analysis
      # How many weeks are gone back unless another number is asked for.
      WEEKS = 52
      WITHIN = Lifecycle::Backtest::WITHIN
      private_constant :WITHIN

      def self.states? = true

      def partial(part, _found)
        lifecycle = Lifecycle.new(part.lifecycle.ledger, rules)
        Lifecycle::Backtest.new(lifecycle, workspace.as_of).counts(weeks)
      end

      def answer((counts))
        @rows = Lifecycle::Backtest.rows(counts, weeks, workspace.as_of)
        @people, @between = counts.values_at(:people, :between)
        picture = { churned_after: rules.churned_after, people: @people, between: @between, rows: @rows.map(&:to_h) }
        Answer.new(finding: finding, picture: picture, tables: [table], caveats: @between.zero? ? [] : [unseen])
      end

      private

      def rests_on = [rules.key]

      def rules = @rules ||= tried_rules

      def weeks
        @weeks ||= begin
          last = workspace.as_of - (workspace.as_of.cwday % 7)
          Lifecycle::Steps.covering("week", last - (7 * (question["weeks"] || WEEKS)) + 1, last)
        end
      end

      # What share of those newly churned were reactivated, as far as that can be told.
      def finding
        told = @rows.reject { |row| row.newly_back[WITHIN.max].nil? }
        called = told.sum(&:newly)
        return "Not enough history: no one became churned long enough ago." if called.zero?

        back = told.sum { |row| row.newly_back[WITHIN.max] }
        "#{English.percent(back.fdiv(called))} of newly churned people were reactivated within #{WITHIN.max} days " \
          "(#{English.people(@people)}, #{English.counted(called, "time")})."
      end

      def unseen
        "Another #{English.counted(@between, "time")}, someone became churned and active again within the same week."
      end

      def table
        rows = @rows.map do |row|
          Table.row([row.date, row.churned, row.newly, *row.newly_back.values_at(*WITHIN)], cells: people(row.date))
        end
        back = WITHIN.map { |days| ["back_#{days}", "reactivated within #{days} days", "count", nil, "newly"] }
        Table.new("weeks", "By week",
                  [["date", "Week ending", "date"], ["churned", "Churned", "people"],
                   ["newly", "Newly churned", "people"], *back], rows)
      end

      # Under the rules that are tried, unless these rest on what the asker may not ask about.
      def people(date)
        own = rules.key == workspace.rules.key
        return {} unless own || rules.told_by?(workspace.catalogue)

        condition = own ? workspace.stored.rules_condition : { "rule_set" => { "rules" => rules.to_h } }
        now, before = [date, date - 7].map { |day| StatePeople.in(["churned"], condition, on: day) }
        # Rules shorter than a week can have somebody churn twice in it, which no comparison of its ends tells.
        newly = { "all" => [now, { "not" => before }] } if rules.churned_after >= 7
        { "churned" => now, "newly" => newly }.compact
      end
    end
  end
end
