# frozen_string_literal: true

module Estrel
  module Analyses
    class CohortValue
      # The curves period by period, and the cohorts one by one.
      class Tables
        # @param analysis [CohortValue]
        # @param lines [Array<Line>]
        def initialize(analysis, lines)
          @analysis = analysis
          @lines = lines
        end

        # @return [Array<Table>]
        def all = [curve, *@lines.each_with_index.map { |line, index| cohorts(line, index) }]

        private

        def unit = @analysis.field&.unit

        def curve
          columns = @lines.each_with_index.flat_map do |line, index|
            who = @lines.one? ? "" : "#{line.name}: "
            [["so_far_#{index}", "#{who}Cumulative per person", "mean", unit, nil, line.name],
             ["low_#{index}", "95% CI from", "mean", unit], ["high_#{index}", "to", "mean", unit],
             ["each_#{index}", "Per person in the period", "mean", unit, nil, line.name],
             ["size_#{index}", "People", "count"]]
          end
          rows = (0...@analysis.cohorts).map { |period| curve_row(period) }
          Table.new("curve", "All cohorts with a complete period", [%w[period Period text], *columns], rows)
        end

        def curve_row(period)
          values = @lines.flat_map do |line|
            [line.cumulative[period], *line.intervals[period], line.per_person[period], line.people(period)]
          end
          Table.row([@analysis.said(period), *values])
        end

        def cohorts(line, index)
          title = "By cohort, cumulative per person#{": #{line.name}" unless @lines.one?}"
          columns = (0...@analysis.cohorts).map { |period| ["at_#{period}", @analysis.said(period), "mean", unit] }
          rows = @analysis.periods.each_index.map { |cohort| cohort_row(line, cohort) }
          Table.new("cohorts_#{index}", title, [%w[cohort Began text], %w[size People people], *columns], rows)
        end

        def cohort_row(line, cohort)
          size = line.sizes[cohort]
          totals = line.totals[cohort]
          values = Array.new(@analysis.cohorts) do |period|
            totals[..period].sum.fdiv(size) if period < totals.size && size.positive?
          end
          Table.row([@analysis.cohort_said(cohort), size, *values], people: began(line, cohort))
        end

        def began(line, cohort)
          from, to = @analysis.periods[cohort].values_at(:from, :to).map(&:iso8601)
          @analysis.people_of(line.group) do |where|
            [@analysis.began_in({ "from" => from, "to" => to }, where)]
          end
        end
      end
    end
  end
end
