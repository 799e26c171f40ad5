# frozen_string_literal: true

module Estrel
  module Analyses
    # How the counts of past weeks have changed since: as known at the time and as known now, and why. People and late
    # events add up over the parts; medians are taken of all lateness together, counted by days.
    class Revisions < Analysis
      # Weeks gone back where no date is asked for.
      WEEKS = 26
      # What a count can differ by, in words.
      CAUSES = { "late" => "late events", "merged" => "merged people", "catalogue" => "catalogue",
                 "rule_set" => "rules" }.freeze
      ORDER = "Causes are applied in order: late events, merged people, catalogue, rules; they add up to the " \
              "difference. Profiles merged since count as one throughout."
      private_constant :CAUSES, :ORDER

      def self.states? = true

      def doing(_found) = "Recomputing figures as first reported"

      def partial(part, _found)
        revision = Lifecycle::Revision.new(now, past: past&.method(:fetch)) do |rules|
          part.budget.check
          part.lifecycle(rules)
        end
        lateness = Lifecycle::ReceivedThen.new(part.lifecycle).lateness(weeks ? weeks.dates[1] - 6 : workspace.as_of,
                                                                        workspace.as_of)
        { counts: weeks ? revision.counts(weeks) : [], sources: lateness }
      end

      # @param found [Array] of the only round
      # @return [Array<Lifecycle::Revision::Row>] one for each week's end
      def rows((found)) = weeks ? Lifecycle::Revision.rows(found[:counts], weeks).drop(1) : []

      def answer(found)
        @rows = rows(found)
        @lateness = found.first[:sources]
        Answer.new(finding: finding, picture: picture,
                   tables: [*Lifecycle::SEEN_STATES.map { |state| weeks_table(state) }, sources_table],
                   caveats: @rows.empty? ? [] : [ORDER])
      end

      private

      def rests_on
        past
        [workspace.stored.rule_changes, weeks&.key]
      end

      # The rules at the end of each week; nil where they are those of now.
      def past
        return @past if defined?(@past)

        at = workspace.stored.past_rules
        @past = at && weeks && weeks.dates.to_h { |date| [date, at.call(date)] }
      end

      def now = @now ||= Lifecycle::Revision::Rules.new(workspace.rules, workspace.catalogue)

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
        return "No past week has been revised." if moved.empty?

        most = moved.max_by(&:moved)
        before, now = [most.before, most.now].map { |counts| English.number(counts[most.most_moved]) }
        "#{moved.size} of #{@rows.size} weeks revised. Largest revision: #{most.most_moved} on " \
          "#{English.date(most.date)}, from #{before} to #{now}. #{most.hint}"
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

      # Of one state: its count with the data received by then and as known now, and what makes up the difference.
      def weeks_table(state)
        rows = @rows.map do |row|
          before, now = [row.before, row.now].map { |counts| counts[state] }
          Table.row([row.date, before, now, now - before, *CAUSES.each_key.map { |cause| row.causes[cause][state] }],
                    cells: { "now" => people_in([state], on: row.date) })
        end
        Table.new("weeks_#{state}", "#{English.state(state).capitalize}: as first reported and now",
                  [["date", "Week ending", "date"], ["then", "First reported", "count"], ["now", "Now", "people"],
                   ["change", "Difference", "change"], *CAUSES.map { |cause, name| [cause, name, "change"] }], rows)
      end

      def sources_table
        rows = sources.map { |row| Table.row(row.values_at(:source, :events, :late, :median_days)) }
        Table.new("sources", "Late events by source",
                  [["source", "Source", "text"], ["events", "Events", "count"],
                   ["late", "Received a day or more late", "count", nil, "events"],
                   ["median_days", "Median delay", "days"]], rows)
      end
    end
  end
end
