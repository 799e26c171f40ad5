# frozen_string_literal: true

module Estrel
  module Analyses
    class Frequency
      # The figures of the picture, bucket by bucket; of two lines with the difference of their shares.
      class Tables
        # @param frequency [Frequency]
        # @param lines [Array<Line>]
        def initialize(frequency, lines)
          @frequency = frequency
          @lines = lines
        end

        # @return [Array<Table>]
        def all = [buckets, averages]

        private

        def buckets
          rows = @frequency.buckets.each_with_index.map { |range, index| row(range, index) }
          Table.new("buckets", "How often", [["bucket", heading, "text"], *lines, *differences], rows)
        end

        def heading = @frequency.unit == "events" ? "Times" : @frequency.unit.capitalize

        def lines
          @lines.each_with_index.flat_map do |line, index|
            [["people_#{index}", line.name, "people"], ["share_#{index}", "Share", "share"],
             *([["before_#{index}", "Share, comparison period", "share"]] if line.behind)]
          end
        end

        def differences
          two? ? [%w[difference Difference points], %w[low from points], %w[high to points]] : []
        end

        def two? = @lines.size == 2

        def row(range, index)
          values = @lines.flat_map do |line|
            [line.counts[index], line.shares[index], *([line.behind[index]] if line.behind)]
          end
          cells = @lines.each_with_index.to_h do |line, place|
            ["people_#{place}", @frequency.people_in(line, range)]
          end
          Table.row([Frequency.said(range), *values, *(difference(index) if two?)],
                    people: (cells["people_0"] if @lines.one?), cells: cells)
        end

        def difference(index)
          one, other = @lines
          return [nil, nil, nil] if [one, other].any? { |line| line.people.zero? }

          Statistics::Shares.difference(other.counts[index], other.people, one.counts[index], one.people)
                            .values_at(:estimate, :low, :high)
        end

        def averages
          rows = @lines.map { |line| Table.row([line.name, line.people, line.mean, line.median]) }
          Table.new("averages", "People who did it", [%w[line What text], ["all", "People by bucket", "count"],
                                                      %w[mean Mean mean], %w[median Median mean]], rows)
        end
      end
    end
  end
end
