# frozen_string_literal: true

module Estrel
  module Analyses
    # From which state to which people went between the ends of two days. People add up over the parts.
    class StateMovement < Analysis
      def self.states? = true

      def partial(part, _found)
        lifecycle = part.lifecycle
        everybody = Lifecycle::Grouping.everybody(lifecycle.ledger)
        { movement: lifecycle.movements(steps, everybody).first.first, firsts: lifecycle.firsts }
      end

      def answer((found))
        @movement = found[:movement]
        @beginning = Lifecycle::Beginning.new(found[:firsts].keys)
        picture = { from: from, to: to, complete: workspace.ended?, **@movement.to_h }
        Answer.new(finding: finding, picture: picture, tables: [table], caveats: caveats)
      end

      private

      def rests_on = [steps.key]

      def from = day("from")

      def to = workspace.as_of

      def steps
        @steps ||= Lifecycle::Steps.between(from, to)
      rescue Lifecycle::Steps::Invalid => e
        raise Invalid.at("from", e.message)
      end

      def finding
        joined, back, lapsed = %w[joined reactivated lapsed].map { |name| English.number(@movement.part(name)) }
        return too_early unless @beginning.reached?(from, workspace.rules.churned_after)

        "From #{English.date(from)} to #{English.date(to)} #{joined} joined, #{back} were reactivated and " \
          "#{lapsed} lapsed."
      end

      def too_early
        "No finding: activity starts on #{English.date(@beginning.date)}; until #{workspace.rules.churned_after} " \
          "days later no one could have churned and everyone appears as joined."
      end

      def caveats = workspace.ended? ? [] : ["#{English.date(to)} has not ended."]

      def table
        states = Lifecycle::STATES
        rows = states.map do |before|
          cells = states.reject { |after| [before, after] == %w[never_active never_active] }
          Table.row([before, *states.map { |after| @movement[before, after] }],
                    cells: cells.to_h { |after| [after, moved([before], [after])] })
        end
        Table.new("movement", "Movement between states",
                  [["before", English.date(from), "state"],
                   *states.map { |state| [state, English.state(state), "people"] }], rows)
      end

      def moved(before, after)
        StatePeople.moved(before, from, after, to, workspace.stored.rules_condition)
      end
    end
  end
end
