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
        Answer.new(finding: finding(changed, people.values.sum), picture: picture,
                   tables: [states_table(picture), changes_table(table)])
      end

      private

      def rests_on = [tried.key]

      def tried = @tried ||= workspace.stored.rules(question["tried"])

      def finding(changed, all)
        return "No one would change state." if changed.zero?

        "#{English.number(changed)} of #{English.number(all)} people would change state " \
          "(#{English.percent(changed.fdiv(all))})."
      end

      def states_table(picture)
        rows = STATES.zip(*picture.values_at(:before, :after)).filter_map do |state, before, after|
          next if (before + after).zero?

          Table.row([state, before, after, after - before],
                    cells: { "before" => inside(state, rules_now), "after" => inside(state, rules_tried) })
        end
        Table.new("states", "People per state, before and after",
                  [%w[state State state], ["before", "Now", "people"], ["after", "After", "people"],
                   %w[change Change change]], rows)
      end

      # Without the states that nobody is in, or would be.
      def changes_table(table)
        used = STATES.each_index.reject { |index| (table[index].sum + table.sum { |row| row[index] }).zero? }
        rows = used.map do |before|
          cells = used.to_h { |after| [STATES[after], moved(STATES[before], STATES[after])] }
          Table.row([STATES[before], *table[before].values_at(*used)], cells: cells)
        end
        states = STATES.values_at(*used)
        after = states.map { |state| [state, English.state(state), "people"] }
        Table.new("changes", "Movement between states", [["before", "Now ↓, after →", "state"], *after], rows)
      end

      def rules_now = workspace.stored.rules_condition

      def rules_tried = { "rule_set" => { "rules" => tried.to_h } }

      def moved(before, after) = { "all" => [inside(before, rules_now), inside(after, rules_tried)] }

      # Whoever the rules are not about is in no state.
      def inside(state, rules)
        return StatePeople.in([state], rules) unless state == OUTSIDE

        { "not" => { "lifecycle" => { "is" => Lifecycle::STATES, **rules } } }
      end
    end
  end
end
