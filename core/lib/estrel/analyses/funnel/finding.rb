# frozen_string_literal: true

module Estrel
  module Analyses
    class Funnel
      # What is said over the picture: of one line how many got to the end and where most stop; of two, at which step
      # they differ most, where chance does not explain it; of more, who got to the end most and least. Nothing is said
      # of fewer than {FEWEST}.
      class Finding
        FEWEST = 50

        # @param analysis [Funnel]
        # @param lines [Array<Line>]
        def initialize(analysis, lines)
          @analysis = analysis
          @lines = lines
        end

        # @return [String]
        def to_s
          return "No one entered the funnel in this period." if @lines.all? { |line| line.people.first.zero? }

          told = @lines.select { |line| line.people.first >= FEWEST }
          case told.size
          when 0 then "Not enough data: fewer than #{FEWEST} people entered."
          when 1 then of_one(told.first)
          when 2 then of_two(*told)
          else of_several(told)
          end
        end

        private

        def last = @analysis.size - 1

        def of_one(line)
          who = @analysis.visits? ? English.counted(line.people.first, "visit") : English.people(line.people.first)
          whose = @analysis.visits? ? "in which people" : "who"
          "#{figure(line, last)} of #{who} #{whose} #{@analysis.words(0)} completed the funnel" \
            "#{" #{@analysis.limit}" unless @analysis.limit.empty?} (#{@analysis.words(last)}). #{most_lost(line)}"
        end

        # "34% (95% CI 33% to 35%)"
        def figure(line, at)
          step = line.steps[at]
          low, high = [step.low, step.high].map { |share| English.percent(share) }
          "#{English.percent(step.share)} (95% CI #{English.interval(low, high)})"
        end

        def most_lost(line)
          at = @analysis.needed[...-1].max_by { |step| line.steps[step].lost }
          lost = line.steps[at].lost
          count = @analysis.visits? ? English.counted(lost, "visit") : English.people(lost)
          "Largest drop-off: after they #{@analysis.words(at)}, #{English.percent(lost.fdiv(line.people[at]))} " \
            "(#{count})#{waited(line, @analysis.after(at))}."
        end

        def waited(line, at)
          wait = line.steps[at].wait or return ""
          "; median time to the next step #{English.duration(wait[:median])}"
        end

        def of_two(one, other)
          at, difference = largest_difference(one, other)
          names = "#{English.quoted(one.name)} and #{English.quoted(other.name)}"
          return "No significant difference between #{names} at any step." unless at

          shares = [one, other].map { |line| English.percent(line.steps[at].share) }
          "Largest difference: step #{at + 1} (#{@analysis.words(at)}), #{shares[0]} of #{English.quoted(one.name)} " \
            "vs " \
            "#{shares[1]} of #{English.quoted(other.name)} (#{English.interval_of_difference(difference)})."
        end

        # Each step is one comparison.
        def largest_difference(one, other)
          found = (1..last).filter_map do |at|
            figures = [other, one].flat_map { |line| [line.people[at], line.people.first] }
            difference = Statistics::Shares.clear_difference(*figures, last)
            [at, difference] if difference
          end
          found.max_by { |_, difference| difference[:estimate].abs }
        end

        def of_several(lines)
          most, least = lines.minmax_by { |line| -line.steps[last].share }
          figures = [most, least].flat_map { |line| [line.people[last], line.people.first] }
          pairs = lines.size * (lines.size - 1) / 2
          unless Statistics::Shares.clear_difference(*figures, pairs)
            return "No significant difference in completion rate between groups."
          end

          "Highest completion rate: #{English.quoted(most.name)}, #{figure(most, last)}; " \
            "lowest: #{English.quoted(least.name)}, #{figure(least, last)}."
        end
      end
    end
  end
end
