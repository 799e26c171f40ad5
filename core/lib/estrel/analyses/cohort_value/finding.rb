# frozen_string_literal: true

module Estrel
  module Analyses
    class CohortValue
      # What is said over the picture: of one line what a person has brought in by the last period, and after how long
      # that has paid what it cost; of several, who brought in most and least. Nothing is said of fewer than {FEWEST}
      # people, or of fewer than {COHORTS} cohorts where other periods have more.
      class Finding
        FEWEST = 50
        COHORTS = 3

        # @param analysis [CohortValue]
        # @param lines [Array<Line>]
        def initialize(analysis, lines)
          @analysis = analysis
          @lines = lines
        end

        # @return [String]
        def to_s
          return "No one started in this period." if @lines.all? { |line| line.sizes.sum.zero? }

          told = @lines.select { |line| last(line) }
          return "Not enough data: fewer than #{FEWEST} people have a complete period." if told.empty?

          told.one? ? of_one(told.first) : of_several(told)
        end

        private

        # The last period that a finding may rest on.
        def last(line)
          least = [COHORTS, (0...@analysis.cohorts).map { |period| line.passed(period) }.max].min
          (0...@analysis.cohorts).to_a.rindex { |at| line.people(at) >= FEWEST && line.passed(at) >= least }
        end

        def of_one(line)
          at = last(line)
          "#{measure} by #{@analysis.said(at)} after people first #{@analysis.start_words}: #{figure(line, at)}." \
            "#{" #{paid(line)}" if line.cost}"
        end

        def measure
          return "Value per person" unless @analysis.metric.share?

          "#{@analysis.steps.unit.capitalize}s per person in which they #{@analysis.metric}"
        end

        # "12.40 € (95% interval 11.90 € to 12.90 €)"
        def figure(line, at)
          low, high = line.intervals[at]
          value = @analysis.told(line.cumulative[at])
          return value unless low

          "#{value} (95% CI #{English.interval(@analysis.told(low), @analysis.told(high))})"
        end

        def paid(line)
          payback = line.payback
          cost = @analysis.told(line.cost)
          return "Acquisition cost of #{cost} not paid back yet." unless payback.at

          "Acquisition cost of #{cost} paid back by #{@analysis.said(payback.at)}#{between(payback)}."
        end

        def between(payback)
          return " (95% CI from #{@analysis.said(payback.low)})" unless payback.high
          return "" if payback.low == payback.high

          " (95% CI #{@analysis.said(payback.low)} to #{@analysis.said(payback.high)})"
        end

        # Whether the intervals of the highest and the lowest lie apart.
        def differ?(most, least, at)
          low = most.intervals[at].first
          high = least.intervals[at].last
          low && high ? low > high : figure(most, at) != figure(least, at)
        end

        # By the last period that half of them have had, or more: seasons are not equally old.
        def of_several(lines)
          at = lines.map { |line| last(line) }.sort[(lines.size - 1) / 2]
          told = lines.select { |line| last(line) >= at }
          most, least = told.minmax_by { |line| -line.cumulative[at] }
          return "No significant difference between groups by #{@analysis.said(at)}." unless differ?(most, least, at)

          of = " (#{told.size} of #{lines.size} groups have enough data)" if told.size < lines.size
          "#{measure} by #{@analysis.said(at)}: highest #{English.quoted(most.name)}, #{figure(most, at)}; " \
            "lowest #{English.quoted(least.name)}, #{figure(least, at)}#{of}."
        end
      end
    end
  end
end
