# frozen_string_literal: true

module Estrel
  module Analyses
    class Trends
      # The figures of the picture: line by line over the whole range, and period by period.
      class Tables
        # @param trends [Trends]
        # @param lines [Array<Line>]
        def initialize(trends, lines)
          @trends = trends
          @lines = lines
        end

        # @return [Array<Table>]
        def all = [over_range, by_period]

        private

        def kind = @trends.combined == "per" ? "mean" : @trends.measure.column

        # A number of people is opened only where it is one.
        def total_kind = @trends.combined && kind == "people" ? "count" : kind

        # Means and parts of numbers of people are none.
        def mean_kind = kind == "share" ? "share" : "mean"

        def over_range
          measured = @trends.measure.unit
          columns = [["line", "Series", "text"], ["total", "Whole period", total_kind, measured],
                     ["mean", "Mean per complete #{unit}", mean_kind, measured],
                     ["last", "Last complete #{unit}", total_kind, measured],
                     ["before", "Previous", total_kind, measured], ["change", "Change", "growth"]]
          Table.new("lines", "Whole period", columns, @lines.map { |line| row(line) })
        end

        def row(line)
          last, before = sound.last(2).reverse
          values = [last, before].map { |at| at && line.values[at] }
          cells = { "total" => people(line, range), "last" => last && people(line, period(last)),
                    "before" => before && people(line, period(before)) }
          Table.row([line.name, line.total, line.mean, *values, change(*values)], people: cells["total"],
                                                                                  cells: cells.compact)
        end

        def change(last, before) = last && before&.positive? ? (last - before).fdiv(before) : nil

        def by_period
          lines = @lines.each_with_index.map do |line, index|
            ["line_#{index}", line.name, total_kind, @trends.measure.unit]
          end
          columns = [%w[from From date], %w[to To date], *lines, %w[complete Complete flag]]
          rows = @trends.periods.each_with_index.map { |period, at| period_row(period, at) }
          Table.new("periods", "By #{unit}", columns, rows)
        end

        def period_row(period, at)
          cells = @lines.each_with_index.to_h { |line, index| ["line_#{index}", people(line, period)] }.compact
          values = @lines.map { |line| line.values[at] }
          Table.row([period[:from], period[:to], *values, period[:complete]], cells: cells)
        end

        def unit = @trends.steps.unit

        def sound = @sound ||= @trends.periods.each_index.select { |at| @trends.periods[at][:sound] }

        def period(at) = @trends.periods[at]

        def range = { from: @trends.steps.dates.first + 1, to: @trends.steps.dates.last }

        def people(line, days) = line.people_in(*days.values_at(:from, :to))
      end
    end
  end
end
