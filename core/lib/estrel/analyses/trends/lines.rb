# frozen_string_literal: true

module Estrel
  module Analyses
    class Trends
      # Makes the lines of a picture out of what was counted.
      class Lines
        # @param trends [Trends]
        # @param groups [Array<Hash>] see {EventGroups#named}
        # @param found [Array<Hash>] of {Counting#to_h}, of the range and of what lies behind
        def initialize(trends, groups, found)
          @trends = trends
          @groups = groups
          now, behind = found
          @now = trends.read(now, trends.steps)
          @behind = behind && trends.read(behind, trends.behind)
        end

        # @return [Array<Line>] series by series, and of each group by group
        def all
          @all ||= begin
            values = series.map { |index| @groups.each_index.map { |group| values(@now, index, group, @trends.steps) } }
            sums = values.flatten(1).transpose.map { |column| column.compact.sum }
            series.flat_map do |index|
              @groups.each_index.map { |group| line(index, group, values[index][group], sums) }
            end
          end
        end

        private

        # Two that are combined make one.
        def series = @trends.combined? ? [0] : @trends.selections.each_index.to_a

        def line(index, group, values, sums)
          *values, total = values
          Line.new(series: index, name: name(index, @groups[group]), group: @groups[group], values: values,
                   people: people(index, group), mean: mean(values), total: total,
                   behind: (behind(index, group) if @behind),
                   shares: (shares(values, sums) if shared?), did: did(index, @groups[group])).freeze
        end

        # Of the periods, and of the whole range.
        def values(counts, index, group, steps)
          width = EventCounts.width(steps)
          ((group * width)...((group + 1) * width)).map { |code| @trends.figure(counts, index, code) }
        end

        # Of periods before the data began nothing is known, which is not none.
        def behind(index, group)
          oldest = @trends.workspace.ledger.oldest_day
          values(@behind, index, group, @trends.behind)[..-2].zip(@trends.behind.dates).map do |value, before|
            value if oldest.nil? || before + 1 >= oldest
          end
        end

        def people(index, group)
          width = EventCounts.width(@trends.steps)
          ((group * width)...(((group + 1) * width) - 1)).map { |code| @now[index].people(code) }
        end

        def mean(values)
          told = values.zip(@trends.periods).filter_map { |value, period| value if period[:sound] }
          told.empty? ? nil : told.sum.fdiv(told.size)
        end

        def shared? = @trends.measure.additive? && !@trends.combined? && (@groups.size * series.size) > 1

        def shares(values, sums)
          values.zip(sums).map { |value, sum| sum.positive? ? value.fdiv(sum) : nil }
        end

        def name(index, group)
          return @trends.line_name(index, group) unless @trends.combined?

          group[:kind] == "all" ? @trends.names.join(" #{@trends.combined} ") : @trends.groups.said(group)
        end

        def did(index, group)
          selection = @trends.selections[index].to_h
          { "did" => { **selection, "where" => [*selection["where"], *group[:where]], "count" => { "at_least" => 1 } } }
        end
      end
    end
  end
end
