# frozen_string_literal: true

module Estrel
  module Analyses
    # How the counts of past weeks have changed since: as known at the time and as known now, and why. People and late
    # events add up over the parts; medians are taken of all lateness together, counted by days.
    class Revisions < Analysis
      # Weeks gone back where no date is asked for.
      WEEKS = 26

      def self.states? = true

      def doing(_found) = "Looking back at what was known then"

      def partial(part, _found)
        study = Lifecycle::Restatement.new(now, past: workspace.stored.past_rules) do |rules|
          part.budget.check
          part.lifecycle(rules)
        end
        lateness = Lifecycle::KnownThen.new(part.lifecycle).lateness(weeks ? weeks.dates[1] - 6 : workspace.as_of,
                                                                     workspace.as_of)
        { counts: weeks ? study.counts(weeks) : [], sources: lateness }
      end

      # @param found [Array] of the only round
      # @return [Array<Lifecycle::Restatement::Row>] one for each week's end
      def rows((found)) = weeks ? Lifecycle::Restatement.rows(found[:counts], weeks).drop(1) : []

      def answer(found)
        @rows = rows(found)
        @lateness = found.first[:sources]
        Answer.new(finding: finding, picture: picture, tables: [weeks_table, sources_table])
      end

      private

      def rests_on = [workspace.stored.rule_changes]

      def now = @now ||= Lifecycle::Restatement::Rules.new(workspace.rules, workspace.catalogue)

      # Weeks before anything had been received are left out; nil where none is left.
      def weeks
        return @weeks if defined?(@weeks)

        first = [day("from") || (workspace.as_of - (7 * WEEKS)), first_received].compact.max
        last = workspace.as_of - (workspace.as_of.cwday % 7)
        @weeks = first > last ? nil : Lifecycle::Steps.covering("week", first, last)
      end

      def first_received
        micros = workspace.ledger.facts["oldest_received_at"]
        micros && workspace.ledger.calendar.day_of(micros)
      end

      def picture
        rows = @rows.map { |row| { **row.to_h, moved: row.moved, most_moved: row.most_moved, hint: row.hint } }
        { first_received: first_received, rows: rows, sources: sources, changes: workspace.stored.rule_changes }
      end

      # How many weeks have changed, and which the most.
      def finding
        moved = @rows.select { |row| row.moved.positive? }
        return "No week's count has changed since." if moved.empty?

        most = moved.max_by(&:moved)
        before, now = [most.before, most.now].map { |counts| English.number(counts[most.most_moved]) }
        "#{moved.size} of #{@rows.size} weeks count differently now than they did then. Most of all " \
          "#{most.most_moved} on #{English.date(most.date)}: #{before} then, #{now} now. #{most.hint}"
      end

      def sources
        told = @lateness.map do |source, found|
          { source: workspace.catalogue.sources.fetch(source, "source #{source}"), events: found[:events],
            late: found[:late].values.sum, median_days: median(found[:late]) }
        end
        told.sort_by { |row| [-row[:late], row[:source]] }
      end

      # @param counts [Hash{Integer => Integer}] how many of each value
      def median(counts)
        total = counts.values.sum
        return if total.zero?

        middle = [(total - 1) / 2, total / 2].map { |place| value_at(counts.sort, place) }
        middle.sum.fdiv(2)
      end

      def value_at(sorted, place)
        sorted.each do |value, count|
          return value if place < count

          place -= count
        end
      end

      def weeks_table
        states = Lifecycle::SEEN_STATES
        causes = Lifecycle::Restatement::CAUSES
        rows = @rows.map do |row|
          by_cause = causes.map { |cause| row.causes[cause].values.sum(&:abs) }
          Table.row([row.date, *states.flat_map { |state| [row.before[state], row.now[state]] }, *by_cause],
                    cells: states.to_h { |state| ["#{state}_now", people_in([state], on: row.date)] })
        end
        Table.new("weeks", "Then and now",
                  [["date", "Week's end", "date"],
                   *states.flat_map do |state|
                     [["#{state}_then", "#{state}, then", "count"],
                      ["#{state}_now", "#{state}, now", "people"]]
                   end,
                   *causes.map { |cause| [cause, "changed: #{cause}", "count"] }], rows)
      end

      def sources_table
        rows = sources.map { |row| Table.row(row.values_at(:source, :events, :late, :median_days)) }
        Table.new("sources", "By source",
                  [["source", "Source", "text"], ["events", "Events", "count"],
                   ["late", "Received later than the day", "count"],
                   ["median_days", "Median delay of these", "days"]], rows)
      end
    end
  end
end
