# frozen_string_literal: true

module Estrel
  module Analyses
    class Visits
      # The figures of the picture: over the whole range, period by period, by length, by how many visits each person
      # paid, by hour of the week, and the time spent by cohort.
      class Tables
        IN_PERIODS = %i[visits people mean].freeze
        private_constant :IN_PERIODS

        # @param analysis [Visits]
        # @param lines [Array<Line>]
        # @param cohorts [Cohorts]
        def initialize(analysis, lines, cohorts)
          @analysis = analysis
          @lines = lines
          @cohorts = cohorts
        end

        # @return [Array<Table>]
        def all = [totals, periods, lengths, often, clock, spent]

        private

        def totals
          columns = Line::FIGURES.map { |name, (label, kind)| [name.to_s, label, kind] }
          rows = @lines.map do |line|
            Table.row([line.name, *Line::FIGURES.each_key.map { |name| line.total(name) }], people: line.people_in)
          end
          Table.new("totals", "Whole period", [%w[line Who text], *columns], rows)
        end

        def periods
          columns = @lines.each_with_index.flat_map do |line, index|
            IN_PERIODS.map do |name|
              what, kind = Line::FIGURES.fetch(name).values_at(0, -1)
              ["#{name}_#{index}", label(line, what), kind, nil, nil, line.name]
            end
          end
          rows = @analysis.periods.each_with_index.map { |period, at| period_row(period, at) }
          Table.new("periods", "By #{@analysis.steps.unit}",
                    [%w[from From date], %w[to To date], *columns, %w[complete Complete flag]], rows)
        end

        def label(line, what) = @lines.one? ? what : "#{line.name}: #{what.downcase}"

        def period_row(period, at)
          window = period.slice(:from, :to).to_h { |key, date| [key.to_s, date.iso8601] }
          figures = @lines.flat_map { |line| IN_PERIODS.map { |name| by_period(line, name)[at] } }
          Table.row([period[:from], period[:to], *figures, period[:complete]], cells: cells("people") do |line|
            line.people_in(window: window)
          end)
        end

        def by_period(line, name)
          @by_period ||= {}
          @by_period[[line, name]] ||= line.values(name)
        end

        # Of each line, whoever a column counts.
        def cells(name)
          @lines.each_with_index.to_h { |line, index| ["#{name}_#{index}", yield(line)] }
        end

        def lengths
          asked = [{ events: { "at_most" => 1 } }, *@analysis.lengths.map { |range| longer(range) }]
          rows = asked.zip(["one event", *@analysis.lengths.map do |range|
            @analysis.said(range)
          end]).each_with_index.map do |(visit, said), at|
            Table.row([said, *spread(at, &:lengths)], cells: cells("visits") { |line| line.people_in(**visit) })
          end
          Table.new("lengths", "By length", [%w[length Length text], *columns("visits", "count")], rows)
        end

        def longer(range)
          length = { "at_least" => range.begin, "below" => range.end }.compact
          { length: length, events: { "at_least" => 2 } }
        end

        def often
          rows = @analysis.often.each_with_index.map do |range, at|
            count = range.end ? { "between" => [range.begin, range.end] } : { "at_least" => range.begin }
            count = { "exactly" => range.begin } if range.begin == range.end
            Table.row([Frequency.said(range), *spread(at, &:often)], cells: cells("people") do |line|
              line.people_in(count: count)
            end)
          end
          Table.new("often", "By visits per person", [%w[visits Visits text], *columns("people", "people")], rows)
        end

        # Of each line, how many, and what share.
        def spread(at)
          @lines.flat_map do |line|
            counts = yield(line)
            [counts[at], counts.sum.zero? ? nil : counts[at].fdiv(counts.sum)]
          end
        end

        def columns(name, kind)
          @lines.each_with_index.flat_map do |line, index|
            [["#{name}_#{index}", @lines.one? ? name.capitalize : line.name, kind],
             ["share_#{index}", "Share", "share"]]
          end
        end

        def clock
          columns = @lines.each_with_index.map do |line, index|
            ["visits_#{index}", @lines.one? ? "Visits" : line.name, "count"]
          end
          rows = Array.new(Counting::HOURS) do |hour|
            window = { "weekdays" => [(hour / 24) + 1], "hours" => [hour % 24, (hour % 24) + 1] }
            range = { "from" => @analysis.from.iso8601, "to" => @analysis.to.iso8601, **window }
            Table.row([Date::DAYNAMES[((hour / 24) + 1) % 7], "#{hour % 24}:00", *@lines.map do |line|
              counts(line)[hour]
            end],
                      cells: cells("visits") { |line| line.people_in(window: range) })
          end
          Table.new("clock", "By hour of the week", [%w[day Day text], %w[hour From text], *columns], rows)
        end

        def counts(line) = (@counts ||= {})[line] ||= line.clock

        def spent
          ages = Array.new(AGES) { |age| ["day_#{age}", "Day #{age}", "duration"] }
          rows = @cohorts.all.map { |cohort| Table.row([cohort.from, cohort.to, cohort.people, *cohort.seconds]) }
          Table.new("spent", "Time spent per person since first seen",
                    [["from", "First seen from", "date"], %w[to To date], %w[people People count], *ages], rows)
        end
      end
    end
  end
end
