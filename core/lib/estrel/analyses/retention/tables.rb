# frozen_string_literal: true

module Estrel
  module Analyses
    class Retention
      # The curve place by place, and the cohorts one by one.
      class Tables
        # @param analysis [Retention]
        # @param lines [Array<Line>]
        def initialize(analysis, lines)
          @analysis = analysis
          @lines = lines
        end

        # @return [Array<Table>]
        def all = [curve, *@lines.each_with_index.map { |line, index| cohorts(line, index) }]

        private

        def curve
          columns = @lines.each_with_index.flat_map do |line, index|
            who = @lines.one? ? "" : "#{line.name}: "
            [["share_#{index}", "#{who}Share", "share", nil, nil, line.name], ["low_#{index}", "95% CI from", "share"],
             ["high_#{index}", "to", "share"], ["people_#{index}", "Returned", came_back, nil, nil, line.name],
             ["size_#{index}", "Cohort size", "count"]]
          end
          rows = @analysis.places.each_with_index.map { |place, at| curve_row(place, at) }
          Table.new("curve", "All complete cohorts", [%w[place Period text], *columns], rows)
        end

        # Somebody who begins several times may come back several times.
        def came_back = @analysis.first? ? "people" : "count"

        def curve_row(place, at)
          values = @lines.flat_map { |line| line.curve[at].to_h.values_at(:share, :low, :high, :people, :size) }
          cells = @lines.each_with_index.to_h do |line, index|
            ["people_#{index}", People.new(@analysis, line.group).on_curve(at)]
          end
          Table.row([@analysis.said(place), *values], cells: cells.compact)
        end

        def cohorts(line, index)
          columns = @analysis.places.each_with_index.map { |place, at| ["at_#{at}", @analysis.said(place), "share"] }
          title = @lines.one? ? "By cohort" : "Cohort by cohort: #{line.name}"
          rows = @analysis.periods.each_index.map { |cohort| cohort_row(line, cohort) }
          Table.new("cohorts_#{index}", title, [%w[cohort Began text], %w[size People people], *columns], rows)
        end

        def cohort_row(line, cohort)
          people = People.new(@analysis, line.group)
          told = @analysis.places.each_with_index.map { |place, at| [at, place, share(line, cohort, at)] }
          cells = told.filter_map { |at, place, share| ["at_#{at}", people.returned(cohort, place)] if share }
          Table.row([@analysis.cohort_said(cohort), line.sizes[cohort], *told.map(&:last)],
                    people: people.began(cohort), cells: cells.to_h.compact)
        end

        # What has begun is told too, though it can still rise; nothing of what lies ahead.
        def share(line, cohort, at)
          place = @analysis.places[at]
          return if line.sizes[cohort].zero? || @analysis.periods[cohort + place.begin].nil?

          line.cells[cohort][at].fdiv(line.sizes[cohort])
        end
      end
    end
  end
end
