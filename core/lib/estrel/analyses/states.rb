# frozen_string_literal: true

module Estrel
  module Analyses
    # How many people are in each state, how that has developed step by step, and where people went. People add up over
    # the parts.
    #
    # "Before" is the day before the range. The finding is about the last day that has ended and about complete periods.
    class States < Analysis
      # What the same steps can be compared with.
      COMPARISONS = %w[previous year].freeze
      # Up to so many periods are told with their whole table of states before and after.
      MOST_TABLES = 400
      # Where dormant people came from, in words.
      ORIGINS = { "new" => "new", "active" => "were active",
                  "reactivated" => "reactivated for one day" }.freeze

      def self.states? = true

      def partial(part, _found)
        lifecycle = part.lifecycle
        everybody = Lifecycle::Grouping.everybody(lifecycle.ledger)
        of = ->(steps) { Lifecycle::Development.of(lifecycle, steps, everybody).first }
        { shown: of.call(steps), ended: ended.equal?(steps) ? nil : of.call(ended),
          compared: compared && lifecycle.series(compared, everybody).first,
          dormant: Lifecycle::DormantPeople.new(lifecycle, workspace.as_of).counts, firsts: lifecycle.firsts }
      end

      def answer((found))
        @shown, @earlier, @dormant = found.values_at(:shown, :compared, :dormant)
        @told = found[:ended] || @shown
        @beginning = Lifecycle::Beginning.new(found[:firsts].keys)
        Answer.new(finding: finding, picture: picture, tables: [now_table, periods_table, origins_table, dormant_table],
                   caveats: caveats)
      end

      private

      def rests_on = [steps.key, compared&.key]

      def steps = @steps ||= steps_of_range

      def caveats
        [*(unended unless workspace.ended?), *(nothing_earlier if @earlier && compared_alive.nil?)]
      end

      def unended = "#{English.date(workspace.as_of)} has not ended and is excluded from the finding."

      def nothing_earlier
        "No comparison: activity starts on #{English.date(@beginning.date)}; until #{workspace.rules.churned_after} " \
          "days later no one could have churned."
      end

      # Up to the last day that has ended.
      def ended
        return steps if workspace.ended?

        @ended ||= begin
          last = workspace.today - 1
          Lifecycle::Steps.covering(steps.unit, [steps.dates.first + 1, last].min, last)
        end
      end

      # The same steps so much earlier: whole weeks for a year, so that the days of the week lie on each other; months
      # by their names.
      def compared
        question["compare_with"] && Lifecycle::Steps.between(*steps.dates.map { |date| date - days_earlier })
      end

      def days_earlier
        to = workspace.as_of
        return (to - steps.dates.first).to_i unless question["compare_with"] == "year"

        steps.unit == "month" ? (to - (to << 12)).to_i : 364
      end

      def picture
        { from: steps.dates.first + 1, to: workspace.as_of, before: steps.dates.first, step: steps.unit,
          dates: steps.dates.drop(1), people: @shown.people(@shown.last), states: states,
          counts: Lifecycle::STATES.to_h { |state| [state, @shown.series[state].drop(1)] },
          reactivated: { now: @shown.series["reactivated"].last, counts: @shown.series["reactivated"].drop(1) },
          periods: periods, gain_loss: gain_loss, compared: compared_alive, dormant: dormant }
      end

      def states
        before, now = [0, @shown.last].map { |at| @shown.states(at) }
        all = now.values.sum
        now.map do |state, count|
          { state: state, count: count, share: all.zero? ? 0.0 : count.fdiv(all), before: before[state],
            change: begun_since? ? nil : count - before[state] }
        end
      end

      def periods
        told = steps.periods(workspace.today).zip(@shown.movements)
        told.map do |period, movement|
          { **period, **(told.size > MOST_TABLES ? movement.to_h.except(:table) : movement.to_h) }
        end
      end

      def compared_alive
        return unless @earlier

        alive = @earlier["new"].zip(@earlier["active"], compared.dates).map do |one, other, date|
          one + other if settled?(date)
        end
        { to: workspace.as_of - days_earlier, alive: alive.drop(1) } if alive.drop(1).any?
      end

      # Whether activity had begun so long before a date that people could have churned by then.
      def settled?(date) = @beginning.reached?(date, workspace.rules.churned_after)

      def dormant
        spans = Lifecycle::DormantPeople.spans(workspace.rules)
        { origins: @dormant["origins"],
          spans: spans.zip(@dormant["spans"]).map { |days, people| { from: days.min, to: days.max, people: people } } }
      end

      def finding
        date = @told.steps.dates.last
        people = @told.people(@told.last)
        return "No people known on #{English.date(date)}." if people.zero?

        alive = @told.alive(@told.last)
        now = "#{English.people(alive)} new or active on #{English.date(date)}, " \
              "#{English.percent(alive.fdiv(people))} of #{number(people)}#{change_said}."
        [now, ratio_said].compact.join(" ")
      end

      # Whether the range begins on a day before which nobody could have churned yet, since the data had only begun.
      # Nothing is compared with such a day.
      def begun_since?
        @told.people(0).zero? || !settled?(@told.steps.dates.first)
      end

      def change_said
        return if begun_since?

        last = @told.last
        moved = %w[dormant churned].map do |state|
          "#{state} #{English.change(@told.series[state][last] - @told.series[state][0])}"
        end
        ": #{English.change(@told.alive(last) - @told.alive(0))} since #{English.date(@told.steps.dates.first)} " \
          "(#{moved.join(", ")})"
      end

      # Over the complete weeks or months together; nil where there are none, or by day.
      def gain_loss
        whole = complete_movements
        return if whole.empty?

        gained = whole.sum { |one| one.part("joined") + one.part("reactivated") }
        lapsed = whole.sum { |one| one.part("lapsed") }
        { gained: gained, lapsed: lapsed, ratio: lapsed.zero? ? nil : gained.fdiv(lapsed) }
      end

      # Of periods in which whoever joined had not been there before the data began.
      def complete_movements
        return [] if steps.unit == "day"

        @told.complete(workspace.today).select { |period, _| settled?(period[:from] - 1) }.map(&:last)
      end

      # How the gain/loss ratio stood over the complete weeks or months.
      def ratio_said
        ratios = complete_movements.filter_map(&:gain_loss_ratio)
        return if ratios.empty?

        gained, lapsed, ratio = gain_loss.values
        below = ratios.count { |one| one < 1 }
        "Gain/loss ratio #{ratio ? English.ratio(ratio) : "–"} (#{number(gained)} joined or reactivated, " \
          "#{number(lapsed)} lapsed); below 1 in #{below} of #{English.counted(ratios.size, "complete #{steps.unit}")}."
      end


      def number(value) = English.number(value)

      def now_table
        rows = states.map do |row|
          # Who had not been seen by then cannot be told from who had been and was never active.
          before = row[:state] == "never_active" ? {} : { "before" => people_in([row[:state]], on: steps.dates.first) }
          Table.row([*row.values_at(:state, :count, :share, :before, :change), workspace.rules.meaning(row[:state])],
                    people: people_in([row[:state]]), cells: before)
        end
        Table.new("states", "States",
                  [["state", "State", "state"], ["people", "People", "people"],
                   ["share", "Share", "share"],
                   ["before", English.date(steps.dates.first), "count"],
                   ["change", "Change", "change"], ["meaning", "Meaning", "text"]], rows)
      end

      def periods_table
        parts = Lifecycle::Movement::PARTS
        rows = periods.map do |period|
          cells = parts.to_h do |name, (before, after)|
            [name, StatePeople.moved(before, period[:from] - 1, after, period[:to], workspace.stored.rules_condition)]
          end
          Table.row([*period.values_at(:from, :to, :complete, *parts.keys.map(&:to_sym), :net, :gain_loss_ratio)],
                    cells: cells)
        end
        Table.new("periods", "By period",
                  [["from", "From", "date"], ["to", "To", "date"],
                   ["complete", "Complete", "flag"],
                   *parts.each_key.map { |name| [name, name.tr("_", " "), "people"] },
                   ["net", "Net", "change"], ["ratio", "Gain/loss ratio", "ratio"]], rows)
      end

      def dormant_table
        total = @shown.states(@shown.last)["dormant"]
        rows = dormant[:spans].map do |span|
          Table.row([*span.values_at(:from, :to, :people), share(span[:people], total)], people: inactive(span))
        end
        Table.new("dormant", "Dormant people by days of inactivity",
                  [["from", "Days inactive from", "days"], ["to", "to", "days"],
                   ["people", "People", "people"], ["share", "Share", "share"]], rows)
      end

      def origins_table
        total = @shown.states(@shown.last)["dormant"]
        rows = ORIGINS.map do |origin, name|
          people = @dormant["origins"][origin]
          Table.row([name, people, share(people, total)], people: came_from(origin))
        end
        Table.new("origins", "Dormant people by previous state",
                  [["origin", "State before", "text"], ["people", "People", "people"],
                   ["share", "Share", "share"]], rows)
      end

      def share(people, total) = total.zero? ? 0.0 : people.fdiv(total)

      # Whoever had been reactivated for a single day was new or active, too, but is told apart.
      def came_from(origin)
        dormant = { "is" => ["dormant"], **workspace.stored.rules_condition }
        back = { "lifecycle" => { **dormant, "from" => %w[new active], "reactivated" => true } }
        return back if origin == "reactivated"

        { "all" => [{ "lifecycle" => { **dormant, "from" => [origin] } }, { "not" => back }] }
      end

      # Dormant for at least so many days, and not for more.
      def inactive(span)
        rules = workspace.rules
        least, most = [span[:from], span[:to] + 1].map { |days| days - rules.active_within }
        longer = { "not" => dormant_for(most) } if span[:to] + 1 < rules.churned_after
        { "all" => [dormant_for(least), longer].compact }
      end

      def dormant_for(days)
        more = { "for_at_least_days" => days.positive? ? days : nil }.compact
        { "lifecycle" => { "is" => ["dormant"], **workspace.stored.rules_condition, **more } }
      end
    end
  end
end
