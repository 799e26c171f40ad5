# frozen_string_literal: true

module Estrel
  module Analyses
    class Experience
      # The figures of the picture, place by place.
      class Tables
        # @param analysis [Experience]
        # @param lines [Array<Line>]
        def initialize(analysis, lines)
          @analysis = analysis
          @lines = lines
        end

        # @return [Array<Table>]
        def all
          rows = @analysis.places.each_with_index.map { |range, at| row(range, at) }
          [Table.new("places", "By stage", [%w[place Place text], *groups, *lines], rows)]
        end

        private

        # One of each group, whoever got to a place being the same for all series.
        def of_groups = @of_groups ||= @lines.select { |line| line.series == @lines.first.series }

        def groups
          of_groups.each_with_index.map do |line, index|
            who = "#{@analysis.groups.said(line.group)}: " unless line.group[:kind] == "all"
            ["reached_#{index}", "#{who}Reached", "people"]
          end
        end

        def lines
          @lines.each_with_index.flat_map do |line, index|
            name = line.name
            [["people_#{index}", "#{name}: people", "people", nil, nil, name],
             ["times_#{index}", "Times", "count", nil, nil, name], *rate(index, name),
             ["each_#{index}", "Per person", "mean", nil, nil, name],
             ["low_#{index}", "95% CI from", "mean"], ["high_#{index}", "to", "mean"]]
          end
        end

        def rated? = @analysis.rated?

        def rate(index, name)
          return [] unless rated?

          [["rate_#{index}", "Per #{@analysis.along}", "mean", nil, nil, name],
           ["rate_low_#{index}", "95% CI from", "mean"], ["rate_high_#{index}", "to", "mean"]]
        end

        def row(range, at)
          reached = of_groups.map { |line| line.reached[at] }
          figures = @lines.flat_map do |line|
            [line.people[at], line.times[at], *([line.rates[at].value, *line.rates[at].interval] if rated?),
             line.per_person[at].value, *line.per_person[at].interval]
          end
          got = of_groups.each_with_index.to_h { |line, index| ["reached_#{index}", line.got_to(range)] }
          did = @lines.each_with_index.to_h { |line, index| ["people_#{index}", line.people_in(range)] }
          Table.row([@analysis.said(range), *reached, *figures], cells: { **got, **did }.compact)
        end
      end
    end
  end
end
