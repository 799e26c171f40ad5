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
          return "Nobody began in these days." if @lines.all? { |line| line.sizes.sum.zero? }

          told = @lines.select { |line| last(line) }
          return "Fewer than #{FEWEST} people have had the time to bring anything in." if told.empty?

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
          "A person who #{@analysis.start_words} for the first time has #{did(figure(line, at))} by " \
            "#{@analysis.said(at)}.#{" #{paid(line)}" if line.cost}"
        end

        def did(figure)
          @analysis.metric.share? ? "#{@analysis.metric} in #{figure} #{@analysis.steps.unit}s" : "brought in #{figure}"
        end

        # "12.40 € (95% interval 11.90 € to 12.90 €)"
        def figure(line, at)
          low, high = line.intervals[at]
          value = @analysis.told(line.cumulative[at])
          return value unless low

          "#{value} (95% interval #{English.interval(@analysis.told(low), @analysis.told(high))})"
        end

        def paid(line)
          payback = line.payback
          cost = @analysis.told(line.cost)
          return "The #{cost} it cost to win a person has not come back yet." unless payback.at

          "The #{cost} it cost to win a person has come back by #{@analysis.said(payback.at)}#{between(payback)}."
        end

        def between(payback)
          return " (95% interval from #{@analysis.said(payback.low)} on)" unless payback.high
          return "" if payback.low == payback.high

          " (95% interval #{@analysis.said(payback.low)} to #{@analysis.said(payback.high)})"
        end

        def did_most
          @analysis.metric.share? ? "#{@analysis.metric} in the most #{@analysis.steps.unit}s" : "brought in most"
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

          of = ", of the #{told.size} that have had it" if told.size < lines.size
          "By #{@analysis.said(at)}#{of}, a person of #{English.quoted(most.name)} has #{did_most}, " \
            "#{figure(most, at)}; of #{English.quoted(least.name)} least, #{figure(least, at)}."
        end
      end
    end
  end
end
