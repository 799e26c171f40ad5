# frozen_string_literal: true

module Estrel
  module Analyses
    class Visits
      # What is said over the picture: of everybody how many visits, how long these take and when most begin; of groups
      # whose visits are the longest and the shortest. Groups of fewer than {FEWEST} people are not compared.
      class Finding
        FEWEST = 50

        # @param analysis [Visits]
        # @param lines [Array<Line>]
        def initialize(analysis, lines)
          @analysis = analysis
          @lines = lines
        end

        # @return [String]
        def to_s
          return "No visits in this period." if @lines.none? { |line| line.total(:visits).positive? }

          @lines.one? ? of_one(@lines.first) : of_several
        end

        private

        def of_one(line)
          visits = English.counted(line.total(:visits), "visit")
          "#{visits} by #{English.people(line.total(:people))} (#{each(line)} per person), #{length(line)}, " \
            "#{English.percent(line.total(:single))} single-event. #{busiest(line)}"
        end

        # A visit of a single event counts with a length of 0.
        def length(line)
          median = line.total(:median)
          median.zero? ? "at least half without length" : "median length #{English.duration(median)}"
        end

        # The hour of the week in which most begin.
        def busiest(line)
          hour = line.clock.each_index.max_by { |at| line.clock[at] }
          day = Audience::Wording::WEEKDAYS[hour / 24]
          "Busiest hour: #{day} #{hour % 24}:00–#{(hour % 24) + 1}:00."
        end

        def of_several
          told = @lines.select { |line| line.total(:people) >= FEWEST }
          return "Not enough data: fewer than #{FEWEST} people in each group." if told.empty?

          longest, shortest = told.minmax_by { |line| -line.total(:mean) }
          return "#{English.quoted(longest.name)}: mean visit length #{mean(longest)}." if told.one?
          return "Mean visit length is the same in all groups: #{mean(longest)}." if mean(longest) == mean(shortest)

          "Longest visits: #{English.quoted(longest.name)}, mean #{mean(longest)}, #{often(longest)}; " \
            "shortest: #{English.quoted(shortest.name)}, #{mean(shortest)}, #{often(shortest)}."
        end

        def mean(line) = English.duration(line.total(:mean))

        def often(line) = "#{each(line)} per person"

        def each(line) = English.quantity(line.total(:per_person).round(1), "number", nil)
      end
    end
  end
end
