# frozen_string_literal: true

module Estrel
  module Analyses
    # What other lifecycle rules would make of everybody: people per state under the rules of the workspace and under
    # the others, and from which state to which they would change. People add up over the parts.
    class RulesEffect < Analysis
      # Whom rules are not about.
      OUTSIDE = "outside"
      STATES = [*Lifecycle::STATES, OUTSIDE].freeze

      def self.states? = true

      def partial(part, _found)
        before, after = [nil, tried].map { |rules| part.states(workspace.as_of, rules)["state"] }
        frame = Polars::DataFrame.new([before.alias("before"), after.alias("after")]).filter(part.seen(workspace.as_of))
        named = %w[before after].map { |side| Polars.col(side).fill_null(OUTSIDE).alias(side) }
        frame.lazy.select(named).group_by(%w[before after]).agg([Polars.len.cast(Polars::Int64).alias("n")]).collect.rows
             .to_h { |one, other, count| [[one, other], count] }
      end

      def answer((people))
        table = STATES.map { |before| STATES.map { |after| people.fetch([before, after], 0) } }
        changed = people.sum { |(before, after), count| before == after ? 0 : count }
        picture = { states: STATES, table: table, before: table.map(&:sum), after: table.transpose.map(&:sum),
                    changed: changed, rules: tried.to_h }
        Answer.new(finding: finding(changed, people.values.sum), picture: picture, tables: [shown(table)])
      end

      private

      def rests_on = [tried.key]

      def tried = @tried ||= workspace.stored.rules(question["tried"])

      def finding(changed, all)
        return "Nobody's state would change." if changed.zero?

        "#{English.number(changed)} of #{English.number(all)} people would be in another state " \
          "(#{English.percent(changed.fdiv(all))})."
      end

      def shown(table)
        rows = STATES.zip(table).map { |state, counts| Table.row([state, *counts]) }
        Table.new("effect", "From which state to which",
                  [["before", "Now", "state"], *STATES.map { |state| [state, state, "count"] }], rows)
      end
    end
  end
end
