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
          return "Nobody took the first step in these days." if @lines.all? { |line| line.people.first.zero? }

          told = @lines.select { |line| line.people.first >= FEWEST }
          case told.size
          when 0 then "Fewer than #{FEWEST} took the first step."
          when 1 then of_one(told.first)
          when 2 then of_two(*told)
          else of_several(told)
          end
        end

        private

        def last = @analysis.size - 1

        def of_one(line)
          who = @analysis.visits? ? English.counted(line.people.first, "visit") : English.people(line.people.first)
          whose = @analysis.visits? ? "in which they" : "who"
          "Of #{who} #{whose} #{@analysis.words(0)}, #{figure(line, last)} went on to the end" \
            "#{" #{@analysis.limit}" unless @analysis.limit.empty?}: they #{@analysis.words(last)}. #{most_lost(line)}"
        end

        # "34% (95% interval 33% to 35%)"
        def figure(line, at)
          step = line.steps[at]
          low, high = [step.low, step.high].map { |share| English.percent(share) }
          "#{English.percent(step.share)} (95% interval #{English.interval(low, high)})"
        end

        def most_lost(line)
          at = @analysis.needed[...-1].max_by { |step| line.steps[step].lost }
          lost = line.steps[at].lost
          "Most stop after they #{@analysis.words(at)}: #{English.number(lost)}, " \
            "#{English.percent(lost.fdiv(line.people[at]))} of those who got there#{waited(line, @analysis.after(at))}."
        end

        def waited(line, at)
          wait = line.steps[at].wait or return ""
          "; whoever goes on takes #{English.duration(wait[:median])} in the median"
        end

        def of_two(one, other)
          at, difference = largest_difference(one, other)
          names = "#{English.quoted(one.name)} and #{English.quoted(other.name)}"
          return "#{names} do not differ beyond chance at any step." unless at

          shares = [one, other].map { |line| English.percent(line.steps[at].share) }
          "#{names} differ most at step #{at + 1}: #{shares[0]} and #{shares[1]} of those who began " \
            "#{@analysis.words(at)} (#{English.interval_of_difference(difference)})."
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
            return "No significant difference between groups in how many reached the last step."
          end

          "#{English.quoted(most.name)} went on to the end most, " \
            "#{figure(most, last)}; #{English.quoted(least.name)} least, #{figure(least, last)}."
        end
      end
    end
  end
end
